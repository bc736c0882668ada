package api

import "github.com/gofiber/fiber/v2"

// download sends an archive of pictures while it is made.
func (s *Server) download(c *fiber.Ctx) error {
	d, err := s.Gatherer.Download(c.UserContext(), c.Params("ticket"), person(c.UserContext()).ID)
	if err != nil {
		return problem(err)
	}
	return s.stream(c, d.Title+".zip", d.WriteTo)
}
