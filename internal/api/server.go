// Package api is HTTP in and out, nothing else: every screen and every program goes through it.
package api

import (
	"bytes"
	"context"
	"io/fs"
	"net/http"
	"path"
	"slices"
	"strings"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/drop"
	"ambrosa/internal/gallery"
	"ambrosa/internal/gather"
	"ambrosa/internal/hand"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/photo"
	"ambrosa/internal/publish"
	"ambrosa/internal/sources"
	"ambrosa/internal/store"
	"ambrosa/internal/tables"
	"ambrosa/internal/tell"
	"ambrosa/internal/tidy"
	"ambrosa/internal/wording"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humafiber"
	"github.com/gofiber/fiber/v2"
	"github.com/gofiber/fiber/v2/middleware/adaptor"
	"github.com/gofiber/fiber/v2/middleware/compress"
	"github.com/prometheus/client_golang/prometheus/promhttp"
)

// Server answers HTTP. Secure says that the address before it is https, so that cookies are kept to it. Base is the
// context of all requests: where it ends, they end. Stopping is closed a little before: what never ends by itself ends then.
// Demo says that this is the demo world.
type Server struct {
	Base       context.Context
	Stopping   <-chan struct{}
	Store      *store.Store
	Vault      *assets.Vault
	Register   *people.Register
	Gatherer   *gather.Gatherer
	Pairer     *pair.Pairer
	Tables     *tables.Tables
	Sources    *sources.Sources
	Wording    *wording.Wording
	Hand       *hand.Hand
	Collecting *hand.Collecting
	Ledger     *ledger.Ledger
	Jobs       *jobs.Jobs
	Web        fs.FS
	Secure     bool
	Demo       bool
	Outside    Outside // the demo's; nil for the real one
	Proxies    Proxies
	paces      paces
	drops      drops
	Gallery    *gallery.Gallery
	Tidy       *tidy.Tidy
	Photos     *photo.Photos
	Publish    *publish.Publish
	Tell       *tell.Tell
	latest     latest
}

// What one request may bring. Bodies are read once it is known who asks, and no further than this.
const (
	bodyAhead     = 8 << 10  // read before it is known who asks
	bodyTable     = 32 << 20 // a products table
	bodyDecisions = 16 << 20 // decisions on as many lines as a delivery may have
)

// App returns the Fiber application with every route. It fails where an operation does not state who may use it.
func (s *Server) App() (*fiber.App, error) {
	app := fiber.New(fiber.Config{
		AppName: "Ambrosa", DisableStartupMessage: true, Immutable: true, CaseSensitive: true, StrictRouting: true,
		StreamRequestBody: true, DisablePreParseMultipartForm: true, BodyLimit: bodyAhead,
		RequestMethods: append(slices.Clone(fiber.DefaultMethods), drop.Methods...),
		ReadTimeout:    2 * time.Minute, ErrorHandler: answerError,
	})
	registry, requests := s.metrics()
	app.Use(measure(requests), s.identify, survive, harden, plainAddress)
	app.Get("/healthz", func(c *fiber.Ctx) error { return c.SendString("ok\n") })
	app.Get("/readyz", s.ready)
	app.Get("/metrics", adaptor.HTTPHandler(promhttp.HandlerFor(registry, promhttp.HandlerOpts{})))
	app.Use(dropPath, s.drop)
	app.Get(publicPath+":address", s.public)
	app.Get("/outside", s.outside)
	app.Use("/api", noStore)
	api := s.describe(app)
	s.plainRoutes(app, api)
	app.Use("/api", compress.New(compress.Config{Level: compress.LevelBestSpeed}))
	app.Get("/notices", s.notices)
	app.Get("/handbook", func(c *fiber.Ctx) error { return c.Redirect("/handbook/README.md") })
	app.Get("/handbook/pictures/:name", handbookPicture)
	app.Get("/handbook/:page", handbook)
	app.Get("/api/docs", s.page)
	s.register(api)
	if err := checkDoors(app, api); err != nil {
		return nil, err
	}
	app.Use("/api", func(*fiber.Ctx) error { return errNoAddress })
	app.Get("/*", s.page)
	return app, nil
}

// ready says whether the database answers and the place for pictures stores, returns and removes bytes.
func (s *Server) ready(c *fiber.Ctx) error {
	if err := s.Store.Pool.Ping(c.UserContext()); err != nil {
		return fiber.NewError(fiber.StatusServiceUnavailable, "The database does not answer.")
	}
	if err := s.Vault.Ready(c.UserContext()); err != nil {
		return fiber.NewError(fiber.StatusServiceUnavailable, sentence(err.Error()))
	}
	return c.SendString("ok\n")
}

// describe begins the description of the interface.
func (s *Server) describe(app *fiber.App) huma.API {
	huma.DefaultArrayNullable = false // lists are empty, never null
	tellErrors()
	config := huma.DefaultConfig("Ambrosa", "1")
	config.Info.Description = "Everything the screens do. Send `Authorization: Bearer` with a token made under your own name. " +
		"`x-role` says which role an operation needs; each may do what those before it may: viewer, editor, admin."
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = "/api/schemas"
	config.CreateHooks = nil // no links to schemas in the answers
	config.Formats = map[string]huma.Format{"application/json": textJSON, "json": textJSON}
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"token": {Type: "http", Scheme: "bearer"}}
	config.Security = []map[string][]string{{"token": {}}}
	api := humafiber.New(app, config)
	api.UseMiddleware(s.guard(api))
	return api
}

// plainRoutes are those whose answers are no JSON, and are not compressed.
func (s *Server) plainRoutes(app *fiber.App, api huma.API) {
	s.plain(app, api, operation(people.Viewer, http.MethodGet, "/api/events", "listen", "What changed, as server-sent events"), s.events)
	s.plain(app, api, operation(people.Viewer, http.MethodGet, "/api/assets/{sha}/{size}", "get-picture",
		"A picture's bytes: a derivative by its size in pixels, or original"), s.picture)
	s.plain(app, api, operation(people.Viewer, http.MethodGet, "/api/downloads/{ticket}", "download", "An archive of pictures that was asked for"), s.download)
	s.uploads(app, api)
	s.browseRoutes(app, api)
	s.glanceRoutes(app, api)
	s.tableFiles(app, api)
	s.sheetRoutes(app, api)
	s.pictureTables(app, api)
	s.packageRoutes(app, api)
}

func (s *Server) register(api huma.API) {
	s.sessionRoutes(api)
	s.peopleRoutes(api)
	s.deliveryRoutes(api)
	s.sourceRoutes(api)
	s.pageRoutes(api)
	s.takenRoutes(api)
	s.lookupRoutes(api)
	s.visitRoutes(api)
	s.driveRoutes(api)
	s.referenceRoutes(api)
	s.rightsRoutes(api)
	s.reconcileRoutes(api)
	s.outsideRoutes(api)
	s.jobRoutes(api)
	s.pairingRoutes(api)
	s.planRoutes(api)
	s.runRoutes(api)
	s.tableRoutes(api)
	s.presetRoutes(api)
	s.photoRoutes(api)
	s.packRoutes(api)
	s.catalogueRoutes(api)
	s.picturedRoutes(api)
	s.handRoutes(api)
	s.wordingRoutes(api)
	s.shopRoutes(api)
	s.galleryRoutes(api)
	s.galleryActs(api)
	s.tidyRoutes(api)
	s.tidyActs(api)
	s.channelRoutes(api)
	s.messageRoutes(api)
}

// OpenAPI returns the document of the whole interface, as YAML's JSON, without a server running.
func OpenAPI() ([]byte, error) {
	s := &Server{Gatherer: &gather.Gatherer{}}
	app := fiber.New()
	api := s.describe(app)
	s.plainRoutes(app, api)
	s.register(api)
	return api.OpenAPI().MarshalJSON()
}

// noStore keeps what the interface answers out of every cache; pictures, which never change, say otherwise.
func noStore(c *fiber.Ctx) error {
	c.Set(fiber.HeaderCacheControl, "no-store")
	return c.Next()
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
	if ending := map[string]string{"br": ".br", "gzip": ".gz"}[c.AcceptsEncodings("br", "gzip", "identity")]; ending != "" {
		if packed, err := fs.ReadFile(s.Web, name+ending); err == nil { // packed when it was built
			body = packed
			c.Set(fiber.HeaderContentEncoding, map[string]string{".br": "br", ".gz": "gzip"}[ending])
		}
	}
	c.Vary(fiber.HeaderAcceptEncoding)
	return c.SendStream(bytes.NewReader(body), len(body))
}
