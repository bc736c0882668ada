package api

import (
	"bytes"
	"fmt"
	"html"
	"io/fs"
	"strings"

	"ambrosa/docs"

	"github.com/gofiber/fiber/v2"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
)

// markdown makes HTML of the handbook; what is HTML in it is left out.
var markdown = goldmark.New(goldmark.WithExtensions(extension.Table))

// handbook shows a page of the handbook, which stands in docs/handbook; who reads it need not be signed in.
func handbook(c *fiber.Ctx) error {
	name := c.Params("page", "README.md")
	text, err := fs.ReadFile(docs.Handbook, "handbook/"+name)
	if err != nil || !strings.HasSuffix(name, ".md") {
		return fiber.NewError(fiber.StatusNotFound, "the handbook has no such page")
	}
	var body bytes.Buffer
	if err := markdown.Convert(text, &body); err != nil {
		return err
	}
	title, _, _ := strings.Cut(strings.TrimPrefix(string(text), "# "), "\n")
	page := strings.ReplaceAll(body.String(), `src="../screenshots/`, `src="/handbook/pictures/`)
	c.Type("html", "utf-8")
	c.Set(fiber.HeaderCacheControl, "no-cache")
	return c.SendString(fmt.Sprintf(handbookPage, html.EscapeString(title), page))
}

// handbookPicture is a picture of the handbook.
func handbookPicture(c *fiber.Ctx) error {
	picture, err := fs.ReadFile(docs.Handbook, "screenshots/"+c.Params("name"))
	if err != nil {
		return fiber.NewError(fiber.StatusNotFound, "the handbook has no such picture")
	}
	c.Type("png")
	return c.Send(picture)
}

const handbookPage = `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>%s · Ambrosa</title>
<style>
:root { color-scheme: light dark; --paper: #faf6ee; --ink: #23201a; --line: #e5ddcd; --amber: #9a5300; --sheet: #fffdf8 }
@media (prefers-color-scheme: dark) { :root { --paper: #1c1915; --ink: #efe8da; --line: #3d372e; --amber: #e0a04a; --sheet: #24201b } }
body { margin: 0 auto; padding: 32px 20px 80px; max-width: 760px; background: var(--paper); color: var(--ink);
	font: 17px/1.55 "Atkinson Hyperlegible", "Noto Sans", sans-serif }
a { color: var(--amber) }
img { max-width: 100%%; border: 1px solid var(--line) }
table { border-collapse: collapse; display: block; overflow-x: auto }
th, td { text-align: left; vertical-align: top; padding: 5px 18px 5px 0; border-bottom: 1px solid var(--line) }
code { background: var(--sheet); border: 1px solid var(--line); border-radius: 3px; padding: 0 4px; font-size: 0.9em }
</style></head>
<body><nav><a href="/">Ambrosa</a> · <a href="/handbook/README.md">Handbook</a></nav>
<main>%s</main></body></html>
`
