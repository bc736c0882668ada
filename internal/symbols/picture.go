package symbols

import (
	"context"
	"math"

	"ambrosa/core/symbol"
	"ambrosa/internal/assets"
)

// mostRead is how many pixels of a picture are looked at; a larger one is shrunk to so many.
const mostRead = 40e6

// InPicture reads the bar codes of a picture; their boxes are in its own pixels as it is seen. Errors: those of assets.Probe, ErrReader, ctx's.
func InPicture(ctx context.Context, r *Reader, src assets.Source, maxPixels int64) ([]symbol.Symbol, error) {
	g, err := assets.ReadGrey(ctx, src, maxPixels, mostRead)
	if err != nil {
		return nil, err
	}
	some, err := r.Read(ctx, g.Levels, g.Width, g.Height)
	if err != nil || g.Scale == 1 {
		return some, err
	}
	own := func(n int) int { return int(math.Round(float64(n) / g.Scale)) }
	for i := range some {
		b := &some[i].Box
		*b = symbol.Box{X: own(b.X), Y: own(b.Y), Width: own(b.Width), Height: own(b.Height)}
	}
	return some, nil
}
