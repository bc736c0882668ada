package publish

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path"

	"ambrosa/core/channel"
	"ambrosa/internal/sheet"
)

// listing is a channel's list on its way into a file.
type listing struct {
	channel Channel
	file    *os.File
	rows    sheet.Writer
	sum     interface{ Sum([]byte) []byte }
	n       int
	address func(slot int64, path string) string
}

// newListing begins a list. Whoever does ends it.
func (p *Publish) newListing(ctx context.Context, c Channel) (*listing, error) {
	f, err := os.CreateTemp("", "ambrosa-list-*")
	if err != nil {
		return nil, err
	}
	l := &listing{channel: c, file: f}
	if l.address, err = p.addresses(ctx, c.ID); err != nil {
		return l, err
	}
	sum := sha256.New()
	l.sum = sum
	d := sheet.Dialect{Separator: c.List.Separator, Encoding: c.List.Encoding, LineEnd: c.List.LineEnd}
	if l.rows, err = sheet.NewWriterAs(io.MultiWriter(f, sum), c.List.Name, d); err != nil {
		return l, err
	}
	return l, l.rows.Row(c.List.Head())
}

// end removes the file.
func (l *listing) end() {
	l.file.Close()
	os.Remove(l.file.Name())
}

// standing is a file that goes with the list, or stands: its slot and where.
type standing struct {
	slot          int64
	path          string
	width, height int
}

// add writes what goes of an owner: for each picture its files by rendition; of a picture without one nothing.
func (l *listing) add(o channel.Owner, files map[int64]map[string]standing) error {
	var rows []channel.Row
	main := l.channel.Renditions[0].Name
	for _, p := range o.Pictures {
		of := files[p.Asset]
		if len(of) == 0 {
			continue
		}
		row := channel.Row{Owner: o, Position: len(rows) + 1, Alt: p.Alt, SHA: p.SHA, Paths: map[string]string{}, Addresses: map[string]string{}, Width: of[main].width, Height: of[main].height}
		for size, s := range of {
			row.Paths[size], row.Addresses[size] = s.path, l.address(s.slot, s.path)
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		return nil
	}
	for _, line := range l.channel.List.Lines(l.channel.Channel, rows) {
		l.n++
		if err := l.rows.Row(line); err != nil {
			return err
		}
	}
	return nil
}

// close ends the list and returns the SHA-256 of its bytes, in hex.
func (l *listing) close() (sum string, err error) {
	err = l.rows.Close()
	return hex.EncodeToString(l.sum.Sum(nil)), err
}

// writeList writes the list of what stands now, and stores it under a key.
func (p *Publish) writeList(ctx context.Context, c Channel, key string) error {
	l, err := p.newListing(ctx, c)
	if l != nil {
		defer l.end()
	}
	if err != nil {
		return err
	}
	w, err := channel.NewWanter(c.Channel, today())
	if err != nil {
		return err
	}
	err = p.walk(ctx, c, func(owners []channel.Owner) error {
		wants, err := p.wants(ctx, c, w, owners, nil)
		if err != nil {
			return err
		}
		for i, o := range owners {
			if err := l.add(o, wants.standing(i)); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if _, err := l.close(); err != nil {
		return err
	}
	if _, err := l.file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	return p.store(ctx, key, l.file)
}

// addresses says at which public address a file of a channel is: at none where it has no key.
func (p *Publish) addresses(ctx context.Context, id int64) (func(slot int64, file string) string, error) {
	c, err := p.Store.ChannelByID(ctx, id)
	if err != nil || c.AddressKey == nil {
		return func(int64, string) string { return "" }, err
	}
	h, err := p.House(ctx)
	if !h.Addresses {
		return func(int64, string) string { return "" }, err
	}
	return func(slot int64, file string) string { return h.Site + Address(c.AddressKey, slot, file) }, err
}

// Address is the path of a file's public address: lasting, as it is of the slot, and nobody guesses it who has not the channel's key.
func Address(key []byte, slot int64, file string) string {
	return fmt.Sprintf("/r/%d-%s%s", slot, mark(key, slot), path.Ext(file))
}

// mark proves that an address was given: 128 bits of HMAC-SHA256 (RFC 2104).
func mark(key []byte, slot int64) string {
	h := hmac.New(sha256.New, key)
	fmt.Fprintf(h, "rendition %d", slot)
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// proves reports whether a mark is the right one; how long it takes tells nothing of it.
func proves(key []byte, slot int64, proof string) bool {
	return hmac.Equal([]byte(mark(key, slot)), []byte(proof))
}

// ErrNoAddress is returned for an address that was never given, or taken back.
var ErrNoAddress = errors.New("nothing is at this address")
