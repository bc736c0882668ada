package api

import (
	"errors"
	"io"
	"net/http"
	"strconv"

	"ambrosa/internal/gather"

	"github.com/gofiber/fiber/v2"
	"github.com/gofiber/fiber/v2/middleware/adaptor"
	"github.com/jackc/pgx/v5"
	"github.com/tus/tusd/v2/pkg/filelocker"
	"github.com/tus/tusd/v2/pkg/filestore"
	tus "github.com/tus/tusd/v2/pkg/handler"
	"golang.org/x/exp/slog"
)

const uploadsPath = "/api/uploads/"

// uploads answers resumable uploads by the tus protocol, version 1.0.0. Metadata: delivery, the number of an
// open delivery, and path, the file's relative path. Each piece is held in memory, so it must fit bodyLimit.
func (s *Server) uploads(app *fiber.App) {
	composer := tus.NewStoreComposer()
	filestore.New(s.Gatherer.Folder).UseIn(composer)
	filelocker.New(s.Gatherer.Folder).UseIn(composer)
	handler, err := tus.NewHandler(tus.Config{
		BasePath: uploadsPath, StoreComposer: composer, RespectForwardedHeaders: true,
		DisableDownload: true, DisableConcatenation: true,
		Cors: &tus.CorsConfig{Disable: true}, Logger: slog.New(slog.NewTextHandler(io.Discard, nil)),
		PreUploadCreateCallback: s.announce,
	})
	if err != nil {
		panic(err) // only for a wrong configuration above
	}
	serve := adaptor.HTTPHandler(http.StripPrefix(uploadsPath, handler))
	app.All(uploadsPath+"*", serve)
	app.All("/api/uploads", serve)
}

func (s *Server) announce(hook tus.HookEvent) (tus.HTTPResponse, tus.FileInfoChanges, error) {
	delivery, err := strconv.ParseInt(hook.Upload.MetaData["delivery"], 10, 64)
	path := hook.Upload.MetaData["path"]
	if err != nil || path == "" || hook.Upload.SizeIsDeferred {
		return tus.HTTPResponse{}, tus.FileInfoChanges{}, tus.NewError("ERR_METADATA", "an upload names its delivery, path and length", http.StatusBadRequest)
	}
	id, err := s.Gatherer.Announce(hook.Context, delivery, path, hook.Upload.Size)
	switch {
	case errors.Is(err, gather.ErrNotOpen):
		return tus.HTTPResponse{}, tus.FileInfoChanges{}, tus.NewError("ERR_CLOSED", err.Error(), http.StatusConflict)
	case errors.Is(err, pgx.ErrNoRows):
		return tus.HTTPResponse{}, tus.FileInfoChanges{}, tus.NewError("ERR_DELIVERY", "there is no such delivery", http.StatusNotFound)
	}
	return tus.HTTPResponse{}, tus.FileInfoChanges{ID: id}, err
}
