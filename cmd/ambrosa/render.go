package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"

	"ambrosa/core/colour"
	"ambrosa/core/rendition"
	"ambrosa/internal/assets"

	"github.com/spf13/cobra"
)

// rendered is what was made of a picture, as it is written.
type rendered struct {
	Width    int  `json:"width"`
	Height   int  `json:"height"`
	Bytes    int  `json:"bytes"`
	Enlarged bool `json:"enlarged"`
}

func renderCommand() *cobra.Command {
	var size, background, to string
	var w rendition.Wish
	var millions int64
	c := &cobra.Command{
		Use:   "render FILE --size LONGEST|WxH --format jpeg|webp|avif|png --to FILE",
		Short: "Make a picture in another size and format; no database is needed",
		Long: "Make a picture in another size and format, in sRGB, and write what came of it as a JSON object.\n" +
			"No picture is enlarged: one that has fewer pixels keeps them. --fit inside keeps all of the picture, crop fills the box from\n" +
			"its middle, pad fills it with the background's colour. --most-bytes takes the best quality that has few enough bytes.\n" +
			"Exit code 1: it has too many bytes at any quality, or can't be written; 2: the file can't be read, or the wish means nothing.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var err error
			if w.Width, w.Height, err = rendition.ReadSize(size); err != nil {
				return usage("--size: %v", err)
			}
			if w.Background, err = readColour(background); err != nil {
				return usage("--background: %v", err)
			}
			if err := w.Check(); err != nil {
				return usage("%v", err)
			}
			if to == "" {
				return usage("--to is missing: where the picture is written to")
			}
			return render(cmd.Context(), args[0], to, w, millions*1e6)
		},
	}
	c.Flags().StringVar(&size, "size", "", "the longest side in pixels, or a box such as 1200x800")
	c.Flags().StringVar((*string)(&w.Fit), "fit", string(rendition.Inside), "inside, crop or pad")
	c.Flags().StringVar((*string)(&w.Format), "format", string(rendition.JPEG), "jpeg, webp, avif or png")
	c.Flags().IntVar(&w.Quality, "quality", 0, "1 to 100; without it "+strconv.Itoa(rendition.UsualQuality))
	c.Flags().Int64Var(&w.MostBytes, "most-bytes", 0, "how many bytes it may have")
	c.Flags().StringVar((*string)(&w.Keep), "keep", "", "metadata that stay: rights (copyright, creator) or all (place and device, too)")
	c.Flags().StringVar(&background, "background", "#ffffff", "what is behind transparent parts, and around a padded picture")
	c.Flags().StringVar(&to, "to", "", "the file to write; one that is there is replaced")
	c.Flags().Int64Var(&millions, "most-pixels", 300, "millions of pixels above which a picture is not read")
	return c
}

var errColour = errors.New("a colour is # and six hexadecimal digits, such as #ffffff")

func readColour(text string) ([3]uint8, error) {
	c, ok := colour.ReadHex(text)
	if !ok || !strings.HasPrefix(text, "#") {
		return [3]uint8{}, fmt.Errorf("%w: %q", errColour, text)
	}
	return [3]uint8{c.R, c.G, c.B}, nil
}

// render makes one rendition of a file.
func render(ctx context.Context, file, to string, w rendition.Wish, mostPixels int64) error {
	if info, err := os.Stat(file); err != nil {
		return fmt.Errorf("%w: %w", errUnreadable, err)
	} else if !info.Mode().IsRegular() {
		return fmt.Errorf("%w: %s is no file", errUnreadable, file)
	}
	made, err := assets.Render(ctx, assets.Source{File: file}, rendition.Size{}, []rendition.Wish{w}, mostPixels)
	switch {
	case errors.Is(err, assets.ErrDamaged), errors.Is(err, assets.ErrTooLarge):
		return fmt.Errorf("%w: %s: %w", errUnreadable, file, err)
	case err != nil:
		return fmt.Errorf("%s: %w", file, err)
	}
	err = writeBeside(to, func(f *os.File) error {
		_, err := f.Write(made[0].Bytes)
		return err
	})
	if err != nil {
		return err
	}
	return newLines(os.Stdout).Encode(rendered{Width: made[0].Width, Height: made[0].Height, Bytes: len(made[0].Bytes)})
}
