package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"

	"ambrosa/core/checks"
	"ambrosa/internal/assets"

	"github.com/spf13/cobra"
)

func checkPicturesCommand() *cobra.Command {
	var millions int64
	c := &cobra.Command{
		Use:   "check FILE …",
		Short: "Look at pictures and write what is seen as JSON objects, one a line; no database is needed",
		Long: "Look at pictures and write what is seen as JSON objects, one a line, in the order of the files. All sizes are those after\n" +
			"the EXIF orientation. true_width and true_height are what a picture was made larger from, its own size where it was not;\n" +
			"padding is how wide a border of one colour lies at each side, in pixels; sideways by how many degrees clockwise it must\n" +
			"be turned where EXIF is not heeded; profile what its ICC profile calls itself; likeness 64 bits, of which few differ\n" +
			"between pictures that look the same.\n" +
			"Exit code 1: some are no pictures or are damaged; 2: all of them.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, files []string) error {
			return each(cmd.Context(), files, func(ctx context.Context, file string) (seenPicture, error) {
				return checkPicture(ctx, file, millions*1e6)
			})
		},
	}
	c.Flags().Int64Var(&millions, "most-pixels", 300, "millions of pixels above which a picture is not read")
	return c
}

// seenPicture is what is seen of a file, as it is written.
type seenPicture struct {
	File       string       `json:"file"`
	Width      int          `json:"width"`
	Height     int          `json:"height"`
	TrueWidth  int          `json:"true_width"`
	TrueHeight int          `json:"true_height"`
	Padding    checks.Sides `json:"padding"`
	Sideways   int          `json:"sideways"`
	Profile    *string      `json:"profile"`
	Likeness   string       `json:"likeness"`
}

func checkPicture(ctx context.Context, file string, mostPixels int64) (p seenPicture, err error) {
	head, err := headOf(file)
	if err != nil {
		return p, err
	}
	if format := assets.Detect(head); !format.Picture {
		return p, fmt.Errorf("it is no picture that can be read, but %s", format.Name)
	}
	f, err := assets.Look(ctx, assets.Source{File: file}, mostPixels)
	if err != nil {
		return p, err
	}
	return seenPicture{File: file, Width: f.Width, Height: f.Height, TrueWidth: f.TrueWidth, TrueHeight: f.TrueHeight, Padding: f.Padding,
		Sideways: f.Sideways, Profile: f.Profile, Likeness: fmt.Sprintf("%016x", f.Likeness)}, nil
}

// headOf reads a file's first bytes.
func headOf(file string) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		var path *fs.PathError // whose text would say the file's name again
		if errors.As(err, &path) {
			err = path.Err
		}
		return nil, err
	}
	defer f.Close()
	head := make([]byte, assets.HeadBytes)
	n, err := f.Read(head)
	if n == 0 && err != nil {
		return nil, fmt.Errorf("it is empty or can't be read")
	}
	return head[:n], nil
}
