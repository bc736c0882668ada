package main

import (
	"bufio"
	"context"
	"os"

	"ambrosa/core/symbol"
	"ambrosa/internal/assets"
	"ambrosa/internal/symbols"

	"github.com/spf13/cobra"
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
			return each(cmd.Context(), files, func(ctx context.Context, file string) (picturedCodes, error) {
				return codesOf(ctx, reader, file, millions*1e6)
			})
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

func codesOf(ctx context.Context, reader *symbols.Reader, file string, mostPixels int64) (picturedCodes, error) {
	codes := picturedCodes{File: file, Codes: []picturedCode{}}
	if _, err := headOf(file); err != nil {
		return codes, err
	}
	found, err := symbols.InPicture(ctx, reader, assets.Source{File: file}, mostPixels)
	for _, s := range found {
		c := picturedCode{Format: s.Format, Text: s.Text, Box: [4]int{s.Box.X, s.Box.Y, s.Box.Width, s.Box.Height}}
		if gtin := s.GTIN(); gtin != "" {
			c.GTIN = &gtin
		}
		codes.Codes = append(codes.Codes, c)
	}
	return codes, err
}
