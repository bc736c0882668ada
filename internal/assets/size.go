package assets

import (
	"bytes"
	"fmt"
	"image"
	_ "image/gif"  // sizes of GIF
	_ "image/jpeg" // and of JPEG
	_ "image/png"  // and of PNG

	"github.com/davidbyttow/govips/v2/vips"
	_ "golang.org/x/image/webp" // and of WebP
)

// SizeOf tells how many pixels a picture has by its first bytes, as they lie. ErrDamaged where they do not say; of some formats they never do.
func SizeOf(head []byte) (width, height int, err error) {
	config, _, err := image.DecodeConfig(bytes.NewReader(head))
	if err == nil {
		return config.Width, config.Height, nil
	}
	if format := Detect(head); !format.Picture || format.Name == "JPEG" || format.Name == "PNG" {
		return 0, 0, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	start()
	header, err := vips.LoadImageFromBuffer(head, vips.NewImportParams())
	if err != nil {
		return 0, 0, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	defer header.Close()
	return header.Width(), header.PageHeight(), nil
}
