package demo

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"math/rand/v2"
	"time"

	"ambrosa/core/gtin"
)

// The studio's session: products that the camera's names say nothing of, each behind a slate.
const (
	sessionTitle  = "Studio, reels and lines"
	sessionCamera = "2041885"
	missingSlate  = 4 // of the series
	smearedSlate  = 6
)

// sessionArticles are the products of the session, in the order in which they were taken.
func sessionArticles() (some []article) {
	for _, a := range of("REL", "LIN") {
		if a.model%2 == 1 && len(some) < 9 {
			some = append(some, a)
		}
	}
	return some
}

// session is what the studio sends: of each product a slate and three to six pictures, of one without its slate, of one with a slate that is
// smeared; and packs, whose names say what they are: one with another product's code behind it, one with a code that the catalogue lacks.
func session() (files []file) {
	r := rand.New(rand.NewPCG(9, 52))
	at := time.Date(2026, 11, 19, 9, 12, 4, 310e6, time.UTC)
	n := 101
	add := func(make func() []byte) {
		taken := at
		files = append(files, file{fmt.Sprintf("DSC_%04d.JPG", n), func() []byte { return dated(make(), taken, sessionCamera) }})
		n++
	}
	views := []view{front, back, detail, front, detail, back}
	all := sessionArticles()
	for i, a := range all {
		at = at.Add(time.Duration(28+r.IntN(50)) * time.Second)
		if i != missingSlate {
			add(func() []byte { return slate(a.barcode, i == smearedSlate) })
		}
		for p := range 3 + r.IntN(4) {
			at = at.Add(time.Duration(2500+r.IntN(5500)) * time.Millisecond)
			add(func() []byte { return drawing(a, views[p], side-4*p) })
		}
	}
	packs := of("REL", "LIN")
	pack := func(of, shows article, code string) {
		files = append(files, file{of.sku + "_pack.jpg", func() []byte { return labelled(shows, code) }})
	}
	pack(packs[40], packs[40], packs[40].barcode)
	pack(packs[41], packs[41], packs[44].barcode)
	const unknown = "952000012346" // in no catalogue
	pack(packs[42], packs[42], unknown+string(gtin.CheckDigit(unknown)))
	return files
}

// slate is a card with a label, as it lies on the table before the products are taken.
func slate(code string, smeared bool) []byte {
	img := image.NewRGBA(image.Rect(0, 0, side, side))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.RGBA{0xb9, 0xb0, 0x9e, 255}), image.Point{}, draw.Src)
	draw.Draw(img, image.Rect(110, 250, 790, 660), image.White, image.Point{}, draw.Src)
	label(img, 192, 330, 5, 190, code)
	if smeared {
		for i := range 9 {
			draw.Draw(img, image.Rect(230+i*48, 322, 256+i*48, 528), image.NewUniform(color.RGBA{0x3a, 0x33, 0x2b, 255}), image.Point{}, draw.Src)
		}
	}
	return asJPEG(img, 88)
}

// labelled is a pack with a label on it.
func labelled(a article, code string) []byte {
	img := painted(a, packed, side, paper)
	label(img, 520, 700, 2, 70, code)
	return asJPEG(img, 90)
}

// dated returns a JPEG that says when it was taken and by which camera. Source: CIPA DC-008 (EXIF 2.32), 4.6.
func dated(jpeg []byte, at time.Time, camera string) []byte {
	texts := []struct {
		tag  uint16
		text string
	}{{0x9003, at.Format("2006:01:02 15:04:05")}, {0x9291, fmt.Sprintf("%03d", at.Nanosecond()/1e6)}, {0xa431, camera}}
	const first, ascii, long = 8, 2, 4
	inner := first + 2 + 12 + 4
	data := inner + 2 + 12*len(texts) + 4
	var tiff, behind bytes.Buffer
	put := func(v any) { _ = binary.Write(&tiff, binary.BigEndian, v) } // into memory it always goes
	tiff.WriteString("MM\x00*")
	put(uint32(first))
	put([]uint16{1, 0x8769, long})
	put([]uint32{1, uint32(inner), 0})
	put(uint16(len(texts)))
	for _, t := range texts {
		text := append([]byte(t.text), 0)
		put([]uint16{t.tag, ascii})
		put(uint32(len(text)))
		if len(text) <= 4 {
			put([4]byte(append(text, 0, 0, 0, 0)[:4]))
			continue
		}
		put(uint32(data + behind.Len()))
		behind.Write(text)
	}
	put(uint32(0))
	return withEXIF(jpeg, append(tiff.Bytes(), behind.Bytes()...))
}
