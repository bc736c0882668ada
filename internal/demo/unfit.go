package demo

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/draw"
)

// sleds are the pictures of the great sleds, which stand before white: one does not, one is wide, one has other colours, one lets its ground
// through. Each says whose it is: the last but one is a product's alone, so that its variants have none of their own.
func sleds() (files []file, owners map[string]string) {
	white := color.RGBA{255, 255, 255, 255}
	var great []article // three to each product
	for _, a := range of("SLD") {
		if a.model%3 == 2 {
			great = append(great, a)
		}
	}
	owners = map[string]string{}
	add := func(sku, name string, made func() []byte) {
		files = append(files, file{"leftovers/sleds/" + name, made})
		owners["sleds/"+name] = sku
	}
	onWhite := func(a article) func() []byte {
		return func() []byte { return asJPEG(painted(a, front, 1000, white), 88) }
	}
	for i := range 5 {
		a := great[3*i]
		add(a.sku, a.sku+".jpg", onWhite(a))
	}
	add(great[15].product, great[15].product+".jpg", onWhite(great[15]))
	add(great[1].sku, great[1].sku+" on paper.jpg", func() []byte { return drawing(great[1], front, 1000) })
	add(great[4].sku, great[4].sku+" wide.jpg", func() []byte {
		m := image.NewRGBA(image.Rect(0, 0, 1500, 1000))
		draw.Draw(m, m.Bounds(), image.NewUniform(white), image.Point{}, draw.Src)
		draw.Draw(m, image.Rect(250, 0, 1250, 1000), painted(great[4], front, 1000, white), image.Point{}, draw.Src)
		return asJPEG(m, 88)
	})
	add(great[7].sku, great[7].sku+" other colours.jpg", func() []byte { return withProfile(onWhite(great[7])(), wideColours()) })
	add(great[10].sku, great[10].sku+" cut out.png", func() []byte { return asPNG(painted(great[10], front, 1000, color.RGBA{})) })
	return files, owners
}

// withProfile puts an ICC profile into a JPEG: one segment APP2, which holds up to 65,519 bytes. Source: ICC.1:2001-04, B.4.
func withProfile(jpeg, profile []byte) []byte {
	segment := append([]byte("ICC_PROFILE\x00\x01\x01"), profile...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe2}, binary.BigEndian.AppendUint16(nil, uint16(len(segment)+2))...)
	return append(append(out, segment...), jpeg[2:]...)
}

// wideColours is a made-up profile of a screen that shows more colours than sRGB. Source: ICC.1:2001-04, chapters 6.1 (header), 6.2 (tags), 6.4
// and 6.5 (types).
func wideColours() []byte {
	be := binary.BigEndian
	s15 := func(v ...float64) (b []byte) {
		for _, x := range v {
			b = be.AppendUint32(b, uint32(int32(x*65536)))
		}
		return b
	}
	xyz := func(x, y, z float64) []byte { return append([]byte("XYZ \x00\x00\x00\x00"), s15(x, y, z)...) }
	name := "Pellmoor wide colours\x00"
	desc := append(be.AppendUint32([]byte("desc\x00\x00\x00\x00"), uint32(len(name))), name...)
	desc = append(desc, make([]byte, 8+3+67)...)                               // nothing in Unicode, nothing in ScriptCode
	gamma := []byte{'c', 'u', 'r', 'v', 0, 0, 0, 0, 0, 0, 0, 1, 2, 0x33, 0, 0} // 2.2
	tags := []struct {
		sign string
		data []byte
	}{
		{"desc", desc}, {"cprt", append([]byte("text\x00\x00\x00\x00"), "Nobody's\x00"...)}, {"wtpt", xyz(.9642, 1, .8249)},
		{"rXYZ", xyz(.6097, .3111, .0195)}, {"gXYZ", xyz(.2053, .6257, .0609)}, {"bXYZ", xyz(.1492, .0632, .7446)},
		{"rTRC", gamma}, {"gTRC", gamma}, {"bTRC", gamma},
	}
	head := make([]byte, 128)
	copy(head[8:], []byte{2, 0x10})
	copy(head[12:], "mntrRGB XYZ ")
	copy(head[36:], "acsp")
	copy(head[68:], s15(.9642, 1, .8249))
	table, body := be.AppendUint32(nil, uint32(len(tags))), []byte{}
	at := 128 + 4 + 12*len(tags)
	for _, t := range tags {
		table = append(table, t.sign...)
		table = be.AppendUint32(be.AppendUint32(table, uint32(at+len(body))), uint32(len(t.data)))
		body = append(body, t.data...)
		body = append(body, bytes.Repeat([]byte{0}, -len(body)&3)...)
	}
	all := append(append(head, table...), body...)
	be.PutUint32(all, uint32(len(all)))
	return all
}
