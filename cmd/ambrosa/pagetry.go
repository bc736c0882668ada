package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/pages"

	"github.com/spf13/cobra"
)

func tryCommand() *cobra.Command {
	var guide string
	var least int
	var private bool
	c := &cobra.Command{
		Use:   "try [--guide FILE] [--least 500] [--allow-private] ADDRESS…",
		Short: "Show which pictures would be taken from pages",
		Long: "Show which pictures would be taken from pages, in which size and order, and why the others are left out.\n" +
			"By a guide that says what the items of a listing are, each item of an address's page is read; else the page\n" +
			"itself. A JSON object a picture: page, item, sku, picture, from, width, height, main, order, kept, why. Nothing\n" +
			"but pages and the beginnings of pictures is asked for, but for those kept; robots.txt is kept to.\n" +
			"Exit code 1: some pages could not be read; 2: none could.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			g := page.Guide{Form: 1, Start: args}
			if guide != "" {
				b, err := os.ReadFile(guide)
				if err != nil {
					return fmt.Errorf("%w: %w", errUnreadable, err)
				}
				if g, err = page.ReadGuide(b); err != nil {
					return usage("%s: %s", guide, err)
				}
			}
			if least < 0 {
				return usage("pixels are counted from 0")
			}
			if least > 0 {
				g.Not.Least = least
			}
			door := &fetch.Door{}
			if private {
				door = fetch.Everywhere()
			}
			t := trial{reader: pages.Reader{Fetch: fetch.New(door, fetch.DefaultLimits), Pixels: source.DefaultLimits.Pixels}, guide: g, out: bufio.NewWriter(os.Stdout)}
			return t.all(c.Context(), args)
		},
	}
	c.Flags().StringVar(&guide, "guide", "", "how the pages are read, as JSON")
	c.Flags().IntVar(&least, "least", 0, "least pixels of the shorter side")
	c.Flags().BoolVar(&private, "allow-private", false, "allow addresses in private networks, and of this machine")
	return c
}

// trial reads pages one after the other and tells of their pictures.
type trial struct {
	reader pages.Reader
	guide  page.Guide
	out    *bufio.Writer
	read   int
	failed int
	sizes  pages.Sizes
}

// foundPicture is what is told of one picture.
type foundPicture struct {
	Page    string    `json:"page"`
	Item    string    `json:"item"`
	SKU     *string   `json:"sku"`
	Picture string    `json:"picture"`
	From    page.From `json:"from"`
	Width   *int      `json:"width"`
	Height  *int      `json:"height"`
	Main    bool      `json:"main"`
	Order   int       `json:"order"`
	Kept    bool      `json:"kept"`
	Why     *string   `json:"why"`
}

func (t *trial) all(ctx context.Context, addresses []string) error {
	for _, address := range addresses {
		if err := t.page(ctx, address); err != nil {
			return errors.Join(err, t.out.Flush())
		}
	}
	if err := t.out.Flush(); err != nil {
		return err
	}
	switch {
	case t.read == 0:
		return errNone
	case t.failed > 0:
		return errSome
	}
	return nil
}

// page tells of a page's pictures, or of those of its items. An error is the end of all.
func (t *trial) page(ctx context.Context, address string) error {
	how := pages.How{Looks: true, Sizes: &t.sizes, Pause: t.pause()}
	p, err := t.reader.Page(ctx, address, how.Pause)
	if err != nil {
		return t.trouble(ctx, err, address)
	}
	t.read++
	var items []string
	if t.guide.Items.Selector != "" {
		items = t.guide.ItemLinks(p)
	}
	if len(items) == 0 {
		result, err := t.reader.Read(ctx, t.guide, p, how)
		if err != nil {
			return err
		}
		return t.tell(address, address, result)
	}
	for _, item := range items {
		result, err := t.reader.Item(ctx, t.guide, item, how)
		if err != nil {
			if err := t.trouble(ctx, err, item); err != nil {
				return err
			}
			continue
		}
		if err := t.tell(address, item, result); err != nil {
			return err
		}
	}
	return nil
}

func (t *trial) pause() time.Duration { return t.guide.Limits.Rest() }

func (t *trial) trouble(ctx context.Context, err error, address string) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	t.failed++
	says := pages.Trouble(err, address).Text()
	switch { // what helps is another thing here than on a screen
	case errors.Is(err, fetch.ErrRefused):
		says = address + " leads into a private network, or to this machine; --allow-private allows that"
	case errors.Is(err, pages.ErrRobots):
		says = address + ": " + err.Error()
	}
	fmt.Fprintln(os.Stderr, "ambrosa:", oneLine(says))
	return nil
}

func (t *trial) tell(address, item string, result pages.Result) error {
	for _, step := range result.Failed {
		fmt.Fprintf(os.Stderr, "ambrosa: %s: the guide's %s finds nothing here\n", item, step)
	}
	told := newLines(t.out)
	for _, c := range result.Pictures {
		line := foundPicture{Page: address, Item: item, Picture: c.Taken.Address, From: c.Taken.From, Order: c.Order, Main: c.Order == 1, Kept: c.Kept}
		if result.SKU != "" {
			line.SKU = &result.SKU
		}
		if c.Size.Width > 0 && c.Size.Height > 0 {
			line.Width, line.Height = &c.Size.Width, &c.Size.Height
		}
		says := c.Remarks
		if !c.Kept {
			says = []message.Message{c.Says}
		}
		if len(says) > 0 {
			line.Why = new(message.Texts(says))
		}
		if err := told.Encode(line); err != nil {
			return err
		}
	}
	return t.out.Flush()
}

func oneLine(text string) string { return strings.Join(strings.Fields(text), " ") }
