package pages

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/assets"
	"ambrosa/internal/fetch"
)

// firstBytes is how much of a picture is asked for to see how large it is; more where that is not enough.
const (
	firstBytes = 32 << 10
	moreBytes  = 512 << 10
	mostWhole  = 64 << 20 // of a picture that is looked at as a whole
)

// Size looks at a picture by its first bytes, through a ranged request. It never fails but where ctx ends: what is wrong is in what it returns.
func (r *Reader) Size(ctx context.Context, address string, paced bool) page.Seen {
	for _, part := range []int64{firstBytes, moreBytes} {
		seen, short := r.size(ctx, address, part, paced)
		if !short {
			return seen
		}
	}
	return page.Seen{Bytes: -1} // it may be a picture; it shows once it has come
}

func (r *Reader) size(ctx context.Context, address string, part int64, paced bool) (seen page.Seen, short bool) {
	answer, err := r.Fetch.Get(ctx, fetch.Request{URL: address, Bytes: part, Part: part, Paced: paced})
	if err != nil {
		return page.Seen{Bytes: -1, Failed: page.Unreached, Says: Trouble(err, address)}, false
	}
	defer answer.Body.Close()
	head, err := io.ReadAll(answer.Body)
	if err != nil {
		return page.Seen{Bytes: -1, Failed: page.Unreached, Says: Trouble(err, address)}, false
	}
	seen = SeenIn(head)
	seen.Bytes = answer.Whole
	return seen, seen.Failed == "" && seen.Width == 0 && int64(len(head)) == part
}

// SeenIn is what can be seen of a picture by its first bytes.
func SeenIn(head []byte) page.Seen {
	format := assets.Detect(head)
	if !format.Picture {
		return page.Seen{Bytes: -1, Failed: page.NotPicture, Says: message.New("left_not_picture", "format", format.Name)}
	}
	sum := sha256.Sum256(head[:min(len(head), firstBytes)])
	seen := page.Seen{Bytes: -1, Head: hex.EncodeToString(sum[:16])}
	if width, height, err := assets.SizeOf(head); err == nil {
		seen.Width, seen.Height = width, height
	}
	return seen
}

// whole looks at a picture as a whole: what it looks like, and how it is framed.
func (r *Reader) whole(ctx context.Context, address string, seen page.Seen, paced bool) page.Seen {
	answer, err := r.Fetch.Get(ctx, fetch.Request{URL: address, Bytes: mostWhole, Paced: paced})
	if err != nil {
		return seen // its size is known; that it does not come as a whole is seen when it is fetched
	}
	defer answer.Body.Close()
	b, err := io.ReadAll(answer.Body)
	if err != nil {
		return seen
	}
	looks, err := assets.Probe(ctx, assets.Source{Bytes: b}, r.Pixels)
	if errors.Is(err, assets.ErrDamaged) {
		return page.Seen{Bytes: int64(len(b)), Failed: page.NotPicture, Says: message.New("left_damaged")}
	}
	if err != nil {
		return seen
	}
	seen.Width, seen.Height, seen.Bytes = looks.Width, looks.Height, int64(len(b))
	seen.Likeness, seen.Palette = &looks.Likeness, looks.Palette
	if facts, err := assets.Look(ctx, assets.Source{Bytes: b}, r.Pixels); err == nil {
		seen.Facts = &facts
	}
	return seen
}
