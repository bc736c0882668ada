package api

import (
	"bytes"
	"io/fs"

	"github.com/gofiber/fiber/v2"
)

// notices shows the licences of all that others made and the program holds; who reads them need not be signed in.
func (s *Server) notices(c *fiber.Ctx) error {
	var all bytes.Buffer
	for _, name := range []string{"notices-go.txt", "notices-web.txt"} {
		text, err := fs.ReadFile(s.Web, name)
		if err != nil {
			return fiber.NewError(fiber.StatusNotFound, "the notices are not built in; build with make build")
		}
		all.Write(text)
	}
	c.Type("txt", "utf-8")
	return c.Send(all.Bytes())
}
