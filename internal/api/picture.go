package api

import (
	"context"
	"encoding/hex"
	"strconv"

	"ambrosa/internal/assets"

	"github.com/gofiber/fiber/v2"
)

// picture serves an asset's bytes: a derivative by its size in pixels, or "original". What lies under a hash
// never changes, so it may be kept for ever.
func (s *Server) picture(c *fiber.Ctx) error {
	sha := c.Params("sha")
	if raw, err := hex.DecodeString(sha); err != nil || len(raw) != 32 {
		return fiber.NewError(fiber.StatusNotFound, "a picture's name is its SHA-256 in 64 hex digits")
	}
	key, mime := assets.OriginalKey(sha), ""
	if size, err := strconv.Atoi(c.Params("size")); err == nil {
		key, mime = assets.DerivativeKey(sha, size), "image/webp"
	}
	c.Set(fiber.HeaderETag, `"`+sha+`"`)
	if c.Get(fiber.HeaderIfNoneMatch) == `"`+sha+`"` {
		return c.SendStatus(fiber.StatusNotModified)
	}
	r, size, err := s.Vault.Open(context.WithoutCancel(c.UserContext()), key) // it is read after this returns
	if assets.IsMissing(err) {
		return fiber.NewError(fiber.StatusNotFound, "there is no such picture")
	}
	if err != nil {
		return err
	}
	if mime == "" {
		mime, err = s.mime(c, sha)
		if err != nil {
			r.Close()
			return err
		}
		// Whatever the bytes are, they are shown as a picture or saved, never run.
		c.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	}
	c.Set(fiber.HeaderContentType, mime)
	c.Set(fiber.HeaderCacheControl, "private, max-age=31536000, immutable")
	return c.SendStream(r, int(size)) // closes it
}

func (s *Server) mime(c *fiber.Ctx, sha string) (string, error) {
	raw, _ := hex.DecodeString(sha)
	format, err := s.Store.AssetFormat(c.UserContext(), raw)
	return assets.MIME(format), err
}
