package api

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"io"
	"log/slog"
	"mime"
	"path"
	"slices"
	"strconv"
	"strings"

	"ambrosa/core/names"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/sheet"
	"ambrosa/internal/tables"

	"github.com/gofiber/fiber/v2"
)

var formats = []string{"csv", "xlsx", "ods"}

// tableFile sends a table in hand as it stands.
func (s *Server) tableFile(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return problem(errMissing)
	}
	w, err := s.Store.WorksheetByID(c.UserContext(), id)
	if err != nil {
		return problem(err)
	}
	format := c.Query("format", w.Format)
	if format == "xlsm" {
		format = "xlsx"
	}
	if !slices.Contains(formats, format) {
		format = "csv"
	}
	name := strings.TrimSuffix(w.Name, path.Ext(w.Name)) + "." + format
	return s.stream(c, name, func(ctx context.Context, to io.Writer) error { return s.Tables.Write(ctx, id, name, to) })
}

// catalogueFile sends the whole catalogue.
func (s *Server) catalogueFile(c *fiber.Ctx) error {
	return s.streamTable(c, "catalogue", func(ctx context.Context, w sheet.Writer) error { return catalogue.Export(ctx, s.Store, w) })
}

// planReport sends what became of the rows of a plan's table.
func (s *Server) planReport(c *fiber.Ctx) error {
	id, err := strconv.ParseInt(c.Params("id"), 10, 64)
	if err != nil {
		return problem(errMissing)
	}
	p, err := s.Store.PlanByID(c.UserContext(), id)
	if err != nil {
		return problem(err)
	}
	name := strings.TrimSuffix(p.Title, path.Ext(p.Title)) + ", report"
	return s.streamTable(c, name, func(ctx context.Context, w sheet.Writer) error { return s.Tables.Report(ctx, id, w) })
}

// streamTable sends rows while they are written, in the format that is asked for.
func (s *Server) streamTable(c *fiber.Ctx, name string, write func(context.Context, sheet.Writer) error) error {
	format := c.Query("format", "xlsx")
	if !slices.Contains(formats, format) {
		return fiber.NewError(fiber.StatusUnprocessableEntity, sheet.ErrFormat.Error())
	}
	name += "." + format
	return s.stream(c, name, func(ctx context.Context, to io.Writer) error {
		w, err := sheet.NewWriter(to, name)
		if err != nil {
			return err
		}
		return errors.Join(write(ctx, w), w.Close())
	})
}

// emptyTable sends an empty table with its explanation.
func (s *Server) emptyTable(c *fiber.Ctx) error {
	kind := c.Params("kind")
	var made bytes.Buffer
	switch err := tables.Empty(&made, kind); {
	case errors.Is(err, tables.ErrKind):
		return problem(errMissing)
	case err != nil:
		return err
	}
	return s.stream(c, kind+".xlsx", func(_ context.Context, to io.Writer) error {
		_, err := made.WriteTo(to)
		return err
	})
}

// stream sends a file while it is written. Where that fails in the middle the connection is cut, so that nobody takes half a file for a
// whole one.
func (s *Server) stream(c *fiber.Ctx, name string, write func(context.Context, io.Writer) error) error {
	c.Set(fiber.HeaderContentType, mime.TypeByExtension(path.Ext(name)))
	c.Set(fiber.HeaderContentDisposition, mime.FormatMediaType("attachment", map[string]string{"filename": names.Portable(name)}))
	ctx, connection := context.WithoutCancel(c.UserContext()), c.Context().Conn() // it is written after this returns
	c.Context().SetBodyStreamWriter(func(out *bufio.Writer) {
		err := write(ctx, out)
		if err == nil {
			err = out.Flush()
		}
		if err != nil {
			slog.Warn("sending a file", "name", name, "error", err)
			_ = connection.Close()
		}
	})
	return nil
}
