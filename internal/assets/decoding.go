package assets

import (
	"context"
	"slices"

	"github.com/davidbyttow/govips/v2/vips"
	"golang.org/x/sync/semaphore"
)

// decodedAtOnce is how many bytes of pictures that must be decoded whole may stand in memory at once. One that needs more
// is decoded alone, so that the peak is that of the largest picture, however many come.
const decodedAtOnce = 512 << 20

var decodings = semaphore.NewWeighted(decodedAtOnce)

// decodedWhole estimates the bytes that decoding a picture holds, beyond a few rows: what comes in several passes over the
// whole picture, or as one frame. A baseline JPEG is shrunk while it is read, a PNG read row by row. The bytes a pixel are
// those of the decoders' own buffers: three coefficients of two bytes in libjpeg (jdcoefct.c), the samples in libpng, and
// frames of four bytes, twice in libheif, where the frame is converted. From memory.
func decodedWhole(header *vips.ImageRef) int64 {
	pixels := int64(header.Width()) * int64(header.Height())
	interlaced := slices.Contains(header.GetFields(), "interlaced")
	switch header.Format() {
	case vips.ImageTypeJPEG:
		if interlaced {
			return 6 * pixels
		}
	case vips.ImageTypePNG:
		if interlaced {
			return 2 * int64(header.Bands()) * pixels
		}
	case vips.ImageTypeHEIF, vips.ImageTypeAVIF:
		return 8 * pixels
	case vips.ImageTypeWEBP, vips.ImageTypeGIF, vips.ImageTypeTIFF:
		return 4 * pixels
	}
	return 0
}

// decoding waits until so many bytes may be decoded; done gives them back.
func decoding(ctx context.Context, bytes int64) (done func(), err error) {
	bytes = min(bytes, decodedAtOnce)
	if err := decodings.Acquire(ctx, bytes); err != nil {
		return nil, err
	}
	return func() { decodings.Release(bytes) }, nil
}
