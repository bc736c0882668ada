package api

import (
	"context"
	"html/template"
	"net/http"
	"time"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
)

// Outside is the demo's outside world.
type Outside interface {
	// Pass lets a day pass there.
	Pass() error
	// Arrived are the mails and the events that came there, the newest first.
	Arrived() []OutsideMessage
}

// OutsideMessage is a mail, or what a webhook was told.
type OutsideMessage struct {
	At            time.Time
	To, Says, All string // its subject or kind, and all of it as it came
}

// outsidePage shows what arrived in the demo's outside world.
var outsidePage = template.Must(template.New("outside").Parse(`<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Outside: what arrived</title><style>body{font-family:sans-serif;background:#faf6ee;color:#23201a;max-width:900px;margin:24px auto;padding:0 16px}
article{background:#fffdf8;border:1px solid #e5ddcd;margin:12px 0;padding:8px 16px}pre{white-space:pre-wrap;overflow-wrap:anywhere;font-size:13px}.soft{color:#6d6557}h2{font-size:17px;margin:4px 0}</style></head>
<body><h1>What arrived outside</h1><p class="soft">The demo sends no mail into the world. What it would send arrives here, the newest first. Load the page again for more.</p>
{{range .}}<article><h2>{{.Says}}</h2><p class="soft">To {{.To}} · {{.At.Format "15:04:05"}}</p><details><summary>As it came</summary><pre>{{.All}}</pre></details></article>
{{else}}<p>Nothing yet. Give your mail address under “My settings”, then start some work.</p>{{end}}</body></html>
`))

// outside is the page of the demo's outside world; there is none elsewhere.
func (s *Server) outside(c *fiber.Ctx) error {
	if s.Outside == nil {
		return c.Next()
	}
	c.Type("html", "utf-8")
	return outsidePage.Execute(c, s.Outside.Arrived())
}

func (s *Server) outsideRoutes(api huma.API) {
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/outside/day", "pass-day", "In the demo: let a day pass at the suppliers' servers, so that collecting again finds something"),
		func(context.Context, *struct{}) (*struct{}, error) {
			if s.Outside == nil {
				return nil, problem(errMissing)
			}
			return nil, problem(s.Outside.Pass())
		})
}
