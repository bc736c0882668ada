package main

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"slices"

	"ambrosa/core/cores"
	"ambrosa/core/symbol"
	"ambrosa/internal/assets"
	"ambrosa/internal/symbols"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"
)

func barcodeCommand() *cobra.Command {
	var millions int64
	c := &cobra.Command{
		Use:   "barcode FILE …",
		Short: "Read the bar codes in pictures and write them as JSON objects, one a line; no database is needed",
		Long: "Read the bar codes in pictures and write them as JSON objects, one a line, in the order of the files. format is one of\n" +
			"EAN-13, EAN-8, UPC-A, UPC-E, ITF-14, Code-128, QR, DataMatrix; text as it is encoded, GS1 data without brackets and with\n" +
			"U+001D for FNC1; gtin 14 digits, or null where the code names no trade item; box left, top, width and height in pixels as the\n" +
			"picture is seen, after the EXIF orientation.\n" +
			"Exit code 1: some are no pictures or are damaged; 2: all of them.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, files []string) error {
			reader := &symbols.Reader{}
			defer reader.Close()
			return readBarcodes(cmd.Context(), reader, files, millions*1e6)
		},
	}
	c.Flags().Int64Var(&millions, "most-pixels", 300, "millions of pixels above which a picture is not read")
	return c
}

// readSymbolsCommand reads for another process of this program.
func readSymbolsCommand() *cobra.Command {
	return &cobra.Command{Use: symbols.Command, Hidden: true, Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		return symbols.Serve(bufio.NewReaderSize(os.Stdin, 1<<20), os.Stdout)
	}}
}

// picturedCodes are the codes of a file, as they are written.
type picturedCodes struct {
	File  string         `json:"file"`
	Codes []picturedCode `json:"codes"`
}

type picturedCode struct {
	Format symbol.Format `json:"format"`
	Text   string        `json:"text"`
	GTIN   *string       `json:"gtin"`
	Box    [4]int        `json:"box"`
}

// readBarcodes reads files, as many at once as there are cores, and writes what they hold in their order.
func readBarcodes(ctx context.Context, reader *symbols.Reader, files []string, mostPixels int64) error {
	out := bufio.NewWriter(os.Stdout)
	lines := newLines(out)
	seen := 0
	for some := range slices.Chunk(files, cores.Count()) {
		found, troubles := make([][]symbol.Symbol, len(some)), make([]error, len(some))
		var group errgroup.Group
		for i, file := range some {
			group.Go(func() error {
				if _, err := headOf(file); err != nil {
					troubles[i] = err
					return nil
				}
				found[i], troubles[i] = symbols.InPicture(ctx, reader, assets.Source{File: file}, mostPixels)
				return nil
			})
		}
		_ = group.Wait() // each keeps its own trouble
		if err := ctx.Err(); err != nil {
			return err
		}
		for i, file := range some {
			if troubles[i] != nil {
				fmt.Fprintf(os.Stderr, "ambrosa: %s: %v\n", file, troubles[i])
				continue
			}
			seen++
			codes := picturedCodes{File: file, Codes: []picturedCode{}}
			for _, s := range found[i] {
				c := picturedCode{Format: s.Format, Text: s.Text, Box: [4]int{s.Box.X, s.Box.Y, s.Box.Width, s.Box.Height}}
				if gtin := s.GTIN(); gtin != "" {
					c.GTIN = &gtin
				}
				codes.Codes = append(codes.Codes, c)
			}
			if err := lines.Encode(codes); err != nil {
				return err
			}
		}
		if err := out.Flush(); err != nil {
			return err
		}
	}
	switch {
	case seen == 0:
		return errNone
	case seen < len(files):
		return errSome
	}
	return nil
}
