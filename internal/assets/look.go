package assets

import (
	"context"

	"ambrosa/core/checks"
	"ambrosa/core/message"

	"github.com/davidbyttow/govips/v2/vips"
)

// Look reads a whole picture and checks it. Memory grows with its pixels: seven bytes for each; of such only so many are in memory at once.
// Errors are those of Probe.
func Look(ctx context.Context, src Source, maxPixels int64) (checks.Facts, error) {
	start()
	var f checks.Facts
	err := beside(src, func() (err error) {
		f, err = look(ctx, src, maxPixels)
		return err
	})
	return f, err
}

func look(ctx context.Context, src Source, maxPixels int64) (f checks.Facts, err error) {
	image, err := src.load(vips.NewImportParams())
	if err != nil {
		return f, failed(err)
	}
	defer image.Close()
	pixels := int64(image.Width()) * int64(image.PageHeight())
	if pixels > maxPixels {
		return f, tooLarge(image.Width(), image.PageHeight(), maxPixels)
	}
	done, err := decoding(ctx, 7*pixels)
	if err != nil {
		return f, err
	}
	defer done()
	if image.Pages() > 1 && image.PageHeight() < image.Height() { // of one that moves, its first picture
		if err := image.ExtractArea(0, 0, image.Width(), image.PageHeight()); err != nil {
			return f, failed(err)
		}
	}
	about := describe(image)
	levels, err := seen(image)
	if err != nil {
		return f, err
	}
	f = checks.Look(levels)
	f.Sideways, f.Profile, f.Model, f.Transparent = about.Sideways, about.Profile, about.Model, about.Transparent
	return f, nil
}

// describe is what a picture's header says of it.
func describe(image *vips.ImageRef) (f checks.Facts) {
	if !turnedAlready(image) {
		f.Sideways = checks.Turns(image.Orientation())
	}
	if image.HasICCProfile() {
		name := checks.ProfileName(image.GetICCProfile())
		f.Profile = &name
	}
	switch image.Interpretation() {
	case vips.InterpretationCMYK:
		f.Model = checks.CMYK
	case vips.InterpretationBW, vips.InterpretationGrey16:
		f.Model = checks.Greys
	default:
		f.Model = checks.RGB
	}
	f.Transparent = image.HasAlpha()
	return f
}

// turnedAlready reports whether the library has turned a picture by what its format says, as it does with those of libheif.
func turnedAlready(image *vips.ImageRef) bool {
	return image.Format() == vips.ImageTypeHEIF || image.Format() == vips.ImageTypeAVIF
}

// seen are a picture's pixels as it is seen: turned, in red, green and blue of eight bits, on white.
func seen(image *vips.ImageRef) (c checks.Colours, err error) {
	if !turnedAlready(image) {
		if err := image.AutoRotate(); err != nil {
			return c, failed(err)
		}
	}
	if err := image.ToColorSpace(vips.InterpretationSRGB); err != nil {
		return c, failed(err)
	}
	if image.HasAlpha() {
		if err := image.Flatten(&vips.Color{R: 255, G: 255, B: 255}); err != nil {
			return c, failed(err)
		}
	}
	levels, err := image.ToBytes()
	if err != nil {
		return c, failed(err)
	}
	c = checks.Colours{Width: image.Width(), Height: image.Height(), Levels: levels}
	if len(levels) != 3*c.Width*c.Height {
		return c, damaged("picture_damaged")
	}
	return c, nil
}

func tooLarge(width, height int, most int64) error {
	return &message.Error{Of: ErrTooLarge, Message: message.New("picture_large",
		"width", width, "height", height, "millions", int64(width)*int64(height)/1e6, "most", most/1e6)}
}
