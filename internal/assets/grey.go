package assets

import (
	"context"
	"math"

	"github.com/davidbyttow/govips/v2/vips"
)

// Grey are the levels of a picture as it is seen, line by line, a byte each.
type Grey struct {
	Levels        []byte
	Width, Height int
	Scale         float64 // of the picture to these: 1 where it was not shrunk
}

// ReadGrey reads a whole picture in grey. One of more pixels than most is shrunk to so many. Memory grows with its pixels: seven bytes for each; of
// such only so many are in memory at once. Errors are those of Probe.
func ReadGrey(ctx context.Context, src Source, maxPixels, most int64) (g Grey, err error) {
	start()
	err = beside(src, func() (err error) {
		g, err = readGrey(ctx, src, maxPixels, most)
		return err
	})
	return g, err
}

func readGrey(ctx context.Context, src Source, maxPixels, most int64) (g Grey, err error) {
	image, done, err := src.whole(ctx, maxPixels)
	if err != nil {
		return g, err
	}
	defer done()
	g.Scale = 1
	if pixels := int64(image.Width()) * int64(image.Height()); pixels > most {
		g.Scale = math.Sqrt(float64(most) / float64(pixels))
		if err := image.Resize(g.Scale, vips.KernelLinear); err != nil {
			return g, failed(err)
		}
	}
	if err := upright(image); err != nil {
		return g, err
	}
	if err := image.ToColorSpace(vips.InterpretationBW); err != nil {
		return g, failed(err)
	}
	if g.Levels, err = image.ToBytes(); err != nil {
		return g, failed(err)
	}
	g.Width, g.Height = image.Width(), image.Height()
	if len(g.Levels) != g.Width*g.Height {
		return g, damaged("picture_damaged")
	}
	return g, nil
}
