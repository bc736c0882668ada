// Package api is HTTP in and out, nothing else: every screen and every program goes through it.
package api

import (
	"bytes"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strings"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/bench"
	"ambrosa/internal/gather"
	"ambrosa/internal/people"
	"ambrosa/internal/runs"
	"ambrosa/internal/store"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humafiber"
	"github.com/gofiber/fiber/v2"
	"github.com/gofiber/fiber/v2/middleware/adaptor"
	"github.com/gofiber/fiber/v2/middleware/compress"
	"github.com/gofiber/fiber/v2/middleware/recover"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Server answers HTTP. Secure says that the address before it is https, so that cookies are kept to it.
type Server struct {
	Store    *store.Store
	Vault    *assets.Vault
	Register *people.Register
	Gatherer *gather.Gatherer
	Bench    *bench.Bench
	Runner   *runs.Runner
	Web      fs.FS
	Secure   bool
}

// bodyLimit bounds one request: a products table, or a piece of an upload, which the adaptor holds in memory.
const bodyLimit = 32 << 20

// App gives the Fiber application with every route.
func (s *Server) App() *fiber.App {
	app := fiber.New(fiber.Config{
		AppName: "Ambrosa", DisableStartupMessage: true, Immutable: true, BodyLimit: bodyLimit,
		ReadTimeout: 2 * time.Minute, ErrorHandler: answerError,
	})
	app.Use(recover.New(recover.Config{EnableStackTrace: true, StackTraceHandler: func(c *fiber.Ctx, e any) {
		slog.Error("a handler panicked", "path", c.Path(), "panic", e)
	}}))
	app.Use(measure, harden)
	app.Get("/healthz", func(c *fiber.Ctx) error { return c.SendString("ok\n") })
	app.Get("/readyz", func(c *fiber.Ctx) error {
		if err := s.Store.Pool.Ping(c.UserContext()); err != nil {
			return fiber.NewError(fiber.StatusServiceUnavailable, "the database does not answer")
		}
		return c.SendString("ok\n")
	})
	app.Get("/metrics", adaptor.HTTPHandler(promhttp.Handler()))
	app.Use("/api", s.authenticate)
	app.Get("/api/events", s.events)
	app.Get("/api/assets/:sha/:size", s.picture)
	s.uploads(app)
	app.Use("/api", compress.New(compress.Config{Level: compress.LevelBestSpeed}))
	app.Get("/api/docs", s.page)
	s.register(app)
	app.Use("/api", func(*fiber.Ctx) error { return fiber.NewError(fiber.StatusNotFound, "there is no such address") })
	app.Get("/*", s.page)
	return app
}

func (s *Server) register(app *fiber.App) huma.API {
	huma.DefaultArrayNullable = false // lists are empty, never null
	config := huma.DefaultConfig("Ambrosa", "1")
	config.Info.Description = "Everything the screens do. Send `Authorization: Bearer` with a token made under your own name."
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = "/api/schemas"
	config.CreateHooks = nil // no links to schemas in the answers
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"token": {Type: "http", Scheme: "bearer"}}
	config.Security = []map[string][]string{{"token": {}}}
	api := humafiber.New(app, config)
	s.sessionRoutes(api)
	s.deliveryRoutes(api)
	s.pairingRoutes(api)
	s.planRoutes(api)
	s.catalogueRoutes(api)
	return api
}

// OpenAPI gives the document of the whole interface, as YAML's JSON, without a server running.
func OpenAPI() ([]byte, error) {
	return (&Server{}).register(fiber.New()).OpenAPI().MarshalJSON()
}

func harden(c *fiber.Ctx) error {
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("Referrer-Policy", "same-origin")
	c.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "+
		"frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'")
	return c.Next()
}

// page serves the interface; a path that is no file is a station's address, which the interface reads.
func (s *Server) page(c *fiber.Ctx) error {
	name := strings.TrimPrefix(path.Clean("/"+c.Path()), "/")
	if name == "api/docs" {
		name = "docs.html"
	}
	body, err := fs.ReadFile(s.Web, name)
	if err != nil {
		if strings.HasPrefix(name, "assets/") {
			return fiber.NewError(fiber.StatusNotFound, "there is no such file")
		}
		name = "index.html"
		if body, err = fs.ReadFile(s.Web, name); err != nil {
			return fiber.NewError(fiber.StatusNotFound, "the interface is not built in; build with make build")
		}
	}
	if strings.HasPrefix(name, "assets/") {
		c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable") // the name carries a hash
	} else {
		c.Set(fiber.HeaderCacheControl, "no-cache")
	}
	c.Type(strings.TrimPrefix(path.Ext(name), "."), "utf-8")
	return c.SendStream(bytes.NewReader(body), len(body))
}

// answerError speaks of errors outside the described operations as they do: RFC 9457 problem details.
func answerError(c *fiber.Ctx, err error) error {
	status := fiber.StatusInternalServerError
	detail := "something went wrong on the server; its log says what"
	if f := (*fiber.Error)(nil); errors.As(err, &f) {
		status, detail = f.Code, f.Message
	} else {
		slog.Error("answering", "path", c.Path(), "error", err)
	}
	c.Status(status)
	c.Set(fiber.HeaderContentType, "application/problem+json")
	return c.JSON(huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}, "application/problem+json")
}
