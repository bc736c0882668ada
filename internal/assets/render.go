package assets

import (
	"context"
	"fmt"

	"ambrosa/core/rendition"

	"github.com/davidbyttow/govips/v2/vips"
)

// Rendition is a picture made for one use.
type Rendition struct {
	Bytes         []byte
	Width, Height int
	Quality       int  // at which it was encoded; 0 where the format has none
	Smaller       bool // it has fewer pixels than were wished, as no picture is enlarged
}

// ErrTooManyBytes is returned for a rendition that has more bytes than wished even at the least quality.
var ErrTooManyBytes = fmt.Errorf("it has too many bytes even at quality %d; make it smaller, or allow more", rendition.LeastQuality)

// Render makes renditions of a picture, in one decoding: in sRGB, as it is seen after its EXIF orientation, with those metadata that a
// wish keeps. Memory grows with the
// largest of them, but for what can only be decoded whole. Errors are those of Probe, those of wishes, and ErrTooManyBytes.
//
// All come of one picture that is scaled to from, or larger where a wish needs it: how large it is shows in the bytes of the smaller ones. Nothing for from
// is as large as the largest wish.
func Render(ctx context.Context, src Source, from rendition.Size, wishes []rendition.Wish, maxPixels int64) ([]Rendition, error) {
	for _, w := range wishes {
		if err := w.Check(); err != nil {
			return nil, err
		}
	}
	start()
	said, err := kept(src, wishes)
	if err != nil {
		return nil, err
	}
	var made []Rendition
	err = beside(src, func() (err error) {
		made, err = render(ctx, src, from, wishes, said, maxPixels)
		return err
	})
	return made, err
}

func render(ctx context.Context, src Source, from rendition.Size, wishes []rendition.Wish, said map[rendition.Keep]exif, maxPixels int64) ([]Rendition, error) {
	width, height, whole, err := measure(src, maxPixels)
	if err != nil {
		return nil, err
	}
	done, err := decoding(ctx, whole)
	if err != nil {
		return nil, err
	}
	defer done()
	frames := make([]rendition.Frame, len(wishes))
	for i, w := range wishes {
		frames[i] = w.Frame(width, height)
	}
	alone := from == rendition.Size{} && len(wishes) == 1 && wishes[0].MostBytes == 0
	from = rendition.From(from, frames)
	largest, err := src.within(from.Width, from.Height)
	if err != nil {
		return nil, failed(err)
	}
	defer func() { largest.Close() }()
	if err := toSRGB(largest); err != nil {
		return nil, failed(err)
	}
	if !alone {
		// What is being decoded can be read once; this is read as often as there are renditions and qualities.
		kept, err := inMemoryWhole(largest)
		if err != nil {
			return nil, failed(err)
		}
		largest.Close()
		largest = kept
	}
	made := make([]Rendition, len(wishes))
	for i, w := range wishes {
		if made[i], err = framed(largest, frames[i], w, said[w.Keep]); err != nil {
			return nil, err
		}
	}
	return made, ctx.Err()
}

// inMemoryWhole is a picture that stands in memory, decoded.
func inMemoryWhole(image *vips.ImageRef) (*vips.ImageRef, error) {
	pixels, _, err := image.ExportTiff(&vips.TiffExportParams{Compression: vips.TiffCompressionNone, StripMetadata: true})
	if err != nil {
		return nil, err
	}
	return vips.LoadImageFromBuffer(pixels, vips.NewImportParams())
}

// farther is from how many times its size on a picture is shrunk by halves first.
const farther = 3

// framed makes one rendition of the largest of them.
func framed(largest *vips.ImageRef, f rendition.Frame, w rendition.Wish, said exif) (Rendition, error) {
	image, err := largest.Copy()
	if err != nil {
		return Rendition{}, failed(err)
	}
	defer image.Close()
	for image.Width() >= farther*f.ScaledWidth && image.Height() >= farther*f.ScaledHeight {
		// By halves: libvips is ten times as slow where it shrinks by more than about three at once.
		if err := image.ThumbnailWithSize(image.Width()/2, image.Height()/2, vips.InterestingNone, vips.SizeForce); err != nil {
			return Rendition{}, failed(err)
		}
	}
	if image.Width() != f.ScaledWidth || image.Height() != f.ScaledHeight {
		if err := image.ThumbnailWithSize(f.ScaledWidth, f.ScaledHeight, vips.InterestingNone, vips.SizeForce); err != nil {
			return Rendition{}, failed(err)
		}
	}
	ground := &vips.Color{R: w.Background[0], G: w.Background[1], B: w.Background[2]}
	if image.HasAlpha() && (w.Fit == rendition.Pad || !w.Format.HasAlpha()) {
		if err := image.Flatten(ground); err != nil {
			return Rendition{}, failed(err)
		}
	}
	switch w.Fit {
	case rendition.Crop:
		err = image.ExtractArea(f.Left, f.Top, f.Width, f.Height)
	case rendition.Pad:
		err = image.EmbedBackground(-f.Left, -f.Top, f.Width, f.Height, ground)
	}
	if err != nil {
		return Rendition{}, failed(err)
	}
	if err := said.onto(image); err != nil {
		return Rendition{}, failed(err)
	}
	r := Rendition{Width: f.Width, Height: f.Height, Smaller: f.Smaller}
	r.Bytes, r.Quality, err = encoded(image, w)
	return r, err
}

// encoded is a picture in a wish's format, at its quality or at the best that has few enough bytes.
func encoded(image *vips.ImageRef, w rendition.Wish) (bytes []byte, quality int, err error) {
	if w.Format.HasQuality() && w.MostBytes > 0 {
		return best(image, w)
	}
	if quality = w.Quality; quality == 0 && w.Format.HasQuality() {
		quality = rendition.UsualQuality
	}
	if bytes, err = export(image, w, quality); err != nil {
		return nil, 0, failed(err)
	}
	if w.MostBytes > 0 && int64(len(bytes)) > w.MostBytes {
		err = tooManyBytes(len(bytes), w.MostBytes)
	}
	return bytes, quality, err
}

// best is a picture at the best quality that has few enough bytes.
func best(image *vips.ImageRef, w rendition.Wish) (bytes []byte, quality int, err error) {
	made := map[int][]byte{}
	least := 0
	quality, ok, err := rendition.BestQuality(w.MostBytes, func(quality int) (int64, error) {
		b, err := export(image, w, quality)
		if err != nil {
			return 0, failed(err)
		}
		made[quality], least = b, len(b)
		return int64(least), nil
	})
	if err == nil && !ok {
		err = tooManyBytes(least, w.MostBytes)
	}
	return made[quality], quality, err
}

func tooManyBytes(has int, most int64) error {
	return fmt.Errorf("%w: %d, and %d are wished", ErrTooManyBytes, has, most)
}

func export(image *vips.ImageRef, w rendition.Wish, quality int) (bytes []byte, err error) {
	strip := w.Keep == rendition.KeepNone
	switch w.Format {
	case rendition.WebP:
		bytes, _, err = image.ExportWebp(&vips.WebpExportParams{Quality: quality, ReductionEffort: 4, StripMetadata: strip})
	case rendition.AVIF:
		bytes, _, err = image.ExportAvif(&vips.AvifExportParams{Quality: quality, Effort: 3, StripMetadata: strip})
	case rendition.PNG:
		bytes, _, err = image.ExportPng(&vips.PngExportParams{Compression: 7, StripMetadata: strip})
	default:
		bytes, _, err = image.ExportJpeg(&vips.JpegExportParams{Quality: quality, OptimizeCoding: true, StripMetadata: strip, SubsampleMode: vips.VipsForeignSubsampleAuto})
	}
	return bytes, err
}
