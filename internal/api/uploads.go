package api

import (
	"errors"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"ambrosa/internal/gather"
	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
	"github.com/jackc/pgx/v5"
	"github.com/tus/tusd/v2/pkg/filelocker"
	"github.com/tus/tusd/v2/pkg/filestore"
	tus "github.com/tus/tusd/v2/pkg/handler"
	"golang.org/x/exp/slog"
)

const uploadsPath = "/api/uploads/"

// wrapUp is how long an upload that was cut off may take to put away what has come.
const wrapUp = 2 * time.Second

// uploads answers resumable uploads by the tus protocol, version 1.0.0. Metadata: delivery, the number of an
// open delivery, and path, the file's relative path. Pieces are streamed to the disk.
func (s *Server) uploads(app *fiber.App, api huma.API) {
	composer := tus.NewStoreComposer()
	filestore.New(s.Gatherer.Folder).UseIn(composer)
	filelocker.New(s.Gatherer.Folder).UseIn(composer)
	handler, err := tus.NewHandler(tus.Config{
		BasePath: uploadsPath, StoreComposer: composer, MaxSize: s.Gatherer.Limits.Upload,
		DisableDownload: true, DisableConcatenation: true, GracefulRequestCompletionTimeout: wrapUp,
		Cors: &tus.CorsConfig{Disable: true}, Logger: slog.New(slog.NewTextHandler(io.Discard, nil)),
		PreUploadCreateCallback: s.announce,
		PreUploadTerminateCallback: func(hook tus.HookEvent) (tus.HTTPResponse, error) {
			return tus.HTTPResponse{}, s.Gatherer.Forget(hook.Context, hook.Upload.ID)
		},
	})
	if err != nil {
		panic(err) // only for a wrong configuration above
	}
	served := http.StripPrefix(uploadsPath, handler)
	// receive takes bytes as long as there is room for them.
	receive := func(c *fiber.Ctx) error {
		if err := s.Gatherer.Room(); err != nil {
			return fiber.NewError(fiber.StatusInsufficientStorage, sentence(err.Error()))
		}
		return bridge(c, served, s.Gatherer.Room)
	}
	create := func(c *fiber.Ctx) error {
		err := receive(c)
		// Where it lies is told as a path: what the request's headers say of host and scheme may be anybody's word.
		if at := string(c.Response().Header.Peek(fiber.HeaderLocation)); at != "" {
			c.Set(fiber.HeaderLocation, uploadsPath+at[strings.LastIndexByte(at, '/')+1:])
		}
		return err
	}
	one := func(c *fiber.Ctx) error {
		id := c.Params("id")
		if !gather.IsUploadID(id) {
			return errNoUpload
		}
		p := person(c.UserContext())
		door, err := s.Store.UploadDoor(c.UserContext(), id)
		switch {
		case errors.Is(err, pgx.ErrNoRows):
			return errNoUpload
		case err != nil:
			return err
		case door.CreatedBy != p.ID && !p.Role.May(people.Admin):
			return fiber.NewError(fiber.StatusForbidden, "Another person is sending this file.")
		case !door.Open && c.Method() != fiber.MethodHead:
			return fiber.NewError(fiber.StatusConflict, sentence(gather.ErrNotOpen.Error()))
		}
		if c.Method() == fiber.MethodPatch {
			return receive(c)
		}
		return bridge(c, served, nil)
	}
	s.plain(app, api, operation(people.Editor, http.MethodOptions, uploadsPath, "describe-uploads",
		"What of the tus protocol is spoken, and the largest upload"), func(c *fiber.Ctx) error { return bridge(c, served, nil) })
	ofOne := uploadsPath + "{id}"
	s.plain(app, api, operation(people.Editor, http.MethodPost, uploadsPath, "create-upload",
		"Announce a file, by the tus protocol 1.0.0; its first bytes may come with it"), create)
	s.plain(app, api, operation(people.Editor, http.MethodHead, ofOne, "ask-upload", "How much of a file has come"), one)
	s.plain(app, api, operation(people.Editor, http.MethodPatch, ofOne, "send-upload", "Send the next bytes of a file"), one)
	s.plain(app, api, operation(people.Editor, http.MethodDelete, ofOne, "drop-upload", "Send a file no further, and forget it"), one)
}

var errNoUpload = fiber.NewError(fiber.StatusNotFound, "There is no such upload.")

func (s *Server) announce(hook tus.HookEvent) (tus.HTTPResponse, tus.FileInfoChanges, error) {
	delivery, err := strconv.ParseInt(hook.Upload.MetaData["delivery"], 10, 64)
	path := hook.Upload.MetaData["path"]
	if err != nil || path == "" || len(path) > gather.MaxPath || hook.Upload.SizeIsDeferred {
		return tus.HTTPResponse{}, tus.FileInfoChanges{}, tus.NewError("ERR_METADATA", "an upload names its delivery, path and length", http.StatusBadRequest)
	}
	id, err := s.Gatherer.Announce(hook.Context, delivery, person(hook.Context).ID, path, hook.Upload.Size)
	for _, known := range []struct {
		err    error
		code   string
		words  string
		status int
	}{
		{gather.ErrNotOpen, "ERR_CLOSED", gather.ErrNotOpen.Error(), http.StatusConflict},
		{gather.ErrNoRoom, "ERR_ROOM", gather.ErrNoRoom.Error(), http.StatusInsufficientStorage},
		{pgx.ErrNoRows, "ERR_DELIVERY", "there is no such delivery", http.StatusNotFound},
	} {
		if errors.Is(err, known.err) {
			return tus.HTTPResponse{}, tus.FileInfoChanges{}, tus.NewError(known.code, known.words, known.status)
		}
	}
	return tus.HTTPResponse{}, tus.FileInfoChanges{ID: id}, err
}
