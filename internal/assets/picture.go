package assets

import (
	"context"
	"errors"
	"os"
	"sync"

	"ambrosa/core/colour"
	"ambrosa/core/likeness"

	"github.com/davidbyttow/govips/v2/vips"
)

// Sizes of the derivatives in pixels: the longer side is at most this.
var Sizes = []int{480, 96}

var (
	// ErrDamaged is returned for a picture that can't be read to its end.
	ErrDamaged = errors.New("the picture can't be read to its end")
	// ErrTooLarge is returned for a picture with more pixels than the limit, before any is read.
	ErrTooLarge = errors.New("the picture is too large")
)

// Picture is what probing returns: pixels as seen, after EXIF orientation, and the derivatives as WebP by size.
type Picture struct {
	Width, Height int
	Derivatives   map[int][]byte
	Likeness      uint64 // see package likeness
	Palette       []colour.Swatch
}

var startup sync.Once

// start readies libvips: one thread an operation, as pictures are worked on side by side; no cache, as no
// picture comes twice; large intermediates on disk; and none of its loaders that are not made for hostile
// input.
func start() {
	startup.Do(func() {
		os.Setenv("VIPS_BLOCK_UNTRUSTED", "1")
		os.Setenv("VIPS_DISC_THRESHOLD", "64m")
		vips.LoggingSettings(func(string, vips.LogLevel, string) {}, vips.LogLevelError)
		vips.Startup(&vips.Config{ConcurrencyLevel: 1})
	})
}

// Source is a picture's bytes: in memory, or in a file where they are many.
type Source struct {
	Bytes []byte
	File  string
}

// Probe reads a picture and makes its derivatives in one decoding; the small one from the large one. Memory
// grows with the derivative, not the picture, but for what can only be decoded whole (see decoding); of those only so many
// are decoded at once. Errors: ErrDamaged with what is wrong, ErrTooLarge with the figures, and ctx's.
func Probe(ctx context.Context, src Source, maxPixels int64) (*Picture, error) {
	start()
	var p *Picture
	err := beside(src, func() (err error) {
		p, err = probe(ctx, src, maxPixels)
		return err
	})
	return p, err
}

func probe(ctx context.Context, src Source, maxPixels int64) (*Picture, error) {
	p := &Picture{Derivatives: map[int][]byte{}}
	var whole int64
	var err error
	if p.Width, p.Height, whole, err = measure(src, maxPixels); err != nil {
		return nil, err
	}
	done, err := decoding(ctx, whole)
	if err != nil {
		return nil, err
	}
	defer done()
	image, err := src.within(Sizes[0], Sizes[0])
	if err != nil {
		return nil, failed(err)
	}
	defer image.Close()
	if err := toSRGB(image); err != nil {
		return nil, failed(err)
	}
	if p.Derivatives[Sizes[0]], err = encode(image); err != nil {
		return nil, failed(err)
	}
	small, err := Source{Bytes: p.Derivatives[Sizes[0]]}.within(Sizes[1], Sizes[1])
	if err != nil {
		return nil, failed(err)
	}
	defer small.Close()
	if p.Derivatives[Sizes[1]], err = encode(small); err != nil {
		return nil, failed(err)
	}
	if err := p.look(small); err != nil {
		return nil, failed(err)
	}
	return p, nil
}

// measure reads how large a picture is as it is seen, and how many bytes decoding it holds. ErrTooLarge.
func measure(src Source, maxPixels int64) (width, height int, whole int64, err error) {
	header, err := src.load(vips.NewImportParams())
	if err != nil {
		return 0, 0, 0, failed(err)
	}
	defer header.Close()
	width, height = header.Width(), header.Height()
	if header.Pages() > 1 && header.PageHeight() > 0 {
		height = header.PageHeight()
	}
	if !turnedAlready(header) && header.Orientation() >= 5 {
		width, height = height, width
	}
	if int64(width)*int64(height) > maxPixels {
		return 0, 0, 0, tooLarge(width, height, maxPixels)
	}
	return width, height, decodedWhole(header), nil
}

// toSRGB converts a picture to what is assumed of one without a profile, as none is stored with it. A broken profile is no reason to refuse the
// picture: its numbers are then taken as sRGB.
func toSRGB(image *vips.ImageRef) error {
	if image.HasICCProfile() {
		_ = image.TransformICCProfile(vips.SRGBIEC6196621ICCProfilePath)
	}
	return image.ToColorSpace(vips.InterpretationSRGB)
}

// look takes from the small derivative what the picture looks like. Where it is transparent it is seen on white.
func (p *Picture) look(small *vips.ImageRef) error {
	if small.HasAlpha() {
		if err := small.Flatten(&vips.Color{R: 255, G: 255, B: 255}); err != nil {
			return err
		}
	}
	bytes, err := small.ToBytes()
	if err != nil {
		return err
	}
	width, height, bands := small.Width(), small.Height(), small.Bands()
	if bands < 3 || len(bytes) != width*height*bands {
		return nil
	}
	pixels := make([]colour.RGB, width*height)
	grey := make([]uint8, width*height)
	for i := range pixels {
		b := bytes[i*bands:]
		pixels[i] = colour.RGB{R: b[0], G: b[1], B: b[2]}
		grey[i] = pixels[i].Luma()
	}
	p.Palette = colour.Palette(pixels, width)
	p.Likeness = likeness.Of(grey, width)
	return nil
}

func encode(image *vips.ImageRef) ([]byte, error) {
	bytes, _, err := image.ExportWebp(&vips.WebpExportParams{Quality: 80, ReductionEffort: 2, StripMetadata: true})
	return bytes, err
}

func (s Source) load(params *vips.ImportParams) (*vips.ImageRef, error) {
	if s.File != "" {
		return vips.LoadImageFromFile(s.File, params)
	}
	return vips.LoadImageFromBuffer(s.Bytes, params)
}

// within is a picture as it is seen, shrunk into a box while it is read.
func (s Source) within(width, height int) (*vips.ImageRef, error) {
	params := vips.NewImportParams()
	if s.File != "" {
		return vips.LoadThumbnailFromFile(s.File, width, height, vips.InterestingNone, vips.SizeDown, params)
	}
	return vips.LoadThumbnailFromBuffer(s.Bytes, width, height, vips.InterestingNone, vips.SizeDown, params)
}
