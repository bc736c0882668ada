package assets

import "github.com/davidbyttow/govips/v2/vips"

// previewQuality is that of previews as JPEG.
const previewQuality = 82

// Preview makes a small JPEG of a derivative, its longer side at most so many pixels, for what can't show the derivative's own format.
// Errors: ErrDamaged.
func Preview(derivative []byte, side int) ([]byte, error) {
	start()
	image, err := Source{Bytes: derivative}.within(side, side)
	if err != nil {
		return nil, failed(err)
	}
	defer image.Close()
	if image.HasAlpha() {
		if err := image.Flatten(&vips.Color{R: 255, G: 255, B: 255}); err != nil {
			return nil, failed(err)
		}
	}
	params := vips.NewJpegExportParams()
	params.Quality, params.StripMetadata = previewQuality, true
	jpeg, _, err := image.ExportJpeg(params)
	if err != nil {
		return nil, failed(err)
	}
	return jpeg, nil
}
