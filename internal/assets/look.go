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
	image, done, err := src.whole(ctx, maxPixels)
	if err != nil {
		return f, err
	}
	defer done()
	about := describe(image)
	levels, err := seen(image)
	if err != nil {
		return f, err
	}
	f = checks.Look(levels)
	f.Sideways, f.Profile, f.Model, f.Transparent = about.Sideways, about.Profile, about.Model, about.Transparent
	return f, nil
}

// whole is a picture that is about to be decoded whole, seven bytes for each pixel; of one that moves its first picture. done gives it back. It
// is not turned yet.
func (s Source) whole(ctx context.Context, maxPixels int64) (image *vips.ImageRef, done func(), err error) {
	image, err = s.load(vips.NewImportParams())
	if err != nil {
		return nil, nil, failed(err)
	}
	given, loaded := func() {}, image
	done = func() { loaded.Close(); given() }
	fail := func(err error) (*vips.ImageRef, func(), error) {
		done()
		return nil, nil, err
	}
	pixels := int64(image.Width()) * int64(image.PageHeight())
	if pixels > maxPixels {
		return fail(tooLarge(image.Width(), image.PageHeight(), maxPixels))
	}
	if given, err = decoding(ctx, 7*pixels); err != nil {
		given = func() {}
		return fail(err)
	}
	if image.Pages() > 1 && image.PageHeight() < image.Height() {
		if err := image.ExtractArea(0, 0, image.Width(), image.PageHeight()); err != nil {
			return fail(failed(err))
		}
	}
	return image, done, nil
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

// upright makes a picture as it is seen: turned, in sRGB, on white.
func upright(image *vips.ImageRef) error {
	if !turnedAlready(image) {
		if err := image.AutoRotate(); err != nil {
			return failed(err)
		}
	}
	if err := image.ToColorSpace(vips.InterpretationSRGB); err != nil {
		return failed(err)
	}
	if image.HasAlpha() {
		if err := image.Flatten(&vips.Color{R: 255, G: 255, B: 255}); err != nil {
			return failed(err)
		}
	}
	return nil
}

// seen are a picture's pixels as it is seen: turned, in red, green and blue of eight bits, on white.
func seen(image *vips.ImageRef) (c checks.Colours, err error) {
	if err := upright(image); err != nil {
		return c, err
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
