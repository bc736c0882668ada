package demo

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"strings"
)

// side is the pixels of a demo picture's side.
const side = 900

// file is one file of a delivery, made when it is wanted.
type file struct {
	path string
	make func() []byte
}

func picture(a article, v view, path string) file {
	return file{path, func() []byte { return drawing(a, v, side) }}
}

func of(codes ...string) []article {
	var some []article
	for _, a := range articles() {
		if strings.Contains(strings.Join(codes, " "), a.family.code) {
			some = append(some, a)
		}
	}
	return some
}

// corrie is Corrie Sailcloth: tidy, SKU and number, one flat archive.
func corrie() []file {
	var files []file
	for _, a := range of("DLT", "DMD") {
		for i, v := range []view{front, back} {
			files = append(files, picture(a, v, fmt.Sprintf("%s-%d.jpg", a.sku, i+1)))
		}
	}
	return files
}

// corrieDetails is a later archive of Corrie Sailcloth: numbers for names, and the list that says which is which.
func corrieDetails() []file {
	var files []file
	var list strings.Builder
	list.WriteString("SKU;Picture;Position;Alt text\n")
	for i, a := range of("DLT")[:36] {
		name := fmt.Sprintf("detail-%02d.jpg", i+1)
		files = append(files, picture(a, detail, "pictures/"+name))
		if i == 5 {
			name = strings.Replace(name, "detail", "detial", 1)
		}
		fmt.Fprintf(&list, "%s;%s;3;%s\n", a.sku, name, a.title+" in "+a.hue.word+", the stitching")
	}
	return append(files, file{"which-is-which.csv", func() []byte { return []byte(list.String()) }})
}

// tarn is Tarn & Daughter Spars: folders in folders, lower case, blanks, a prefix, a desktop's litter.
func tarn() []file {
	files := []file{{".DS_Store", func() []byte { return []byte("\x00\x00\x00\x01Bud1") }}}
	for i, a := range of("BOX", "SLD") {
		folder := fmt.Sprintf("autumn/%s/%s/", strings.ToLower(a.family.noun), a.hue.word)
		name := "tarn_" + strings.ToLower(strings.ReplaceAll(a.sku, "-", " "))
		for n, v := range []view{front, back, packed} {
			if n == 2 && i%4 != 0 {
				continue
			}
			suffix := fmt.Sprintf(" %02d", n+1)
			if v == packed {
				suffix = " packed"
			}
			files = append(files, picture(a, v, folder+name+suffix+".jpg"))
		}
		if i%12 == 0 {
			files = append(files, file{"__MACOSX/" + folder + "._" + name + " 01.jpg", func() []byte { return []byte("\x00\x05\x16\x07\x00\x02") }})
		}
	}
	return files
}

// fellside is Fellside Reels: barcodes for names.
func fellside() []file {
	var files []file
	for _, a := range of("REL", "LIN") {
		if a.model%2 == 0 {
			files = append(files, picture(a, front, a.barcode+"_1.jpg"), picture(a, detail, a.barcode+"_2.jpg"))
		}
	}
	return files
}

// windhover is Windhover Remnants: chaos.
func windhover() []file {
	all := of("PFL", "TAL")
	var files []file
	for i, a := range all[60:] {
		// The second crate was named by somebody in a hurry: the house's letters left off, a digit wrong, the
		// picture of another colour, folders for names.
		switch sku := a.sku; i % 10 {
		case 0, 1, 2:
			files = append(files, picture(a, front, strings.TrimPrefix(sku, "PK-")+".jpg"))
		case 3, 4:
			files = append(files, picture(a, front, strings.Replace(sku, "-TAL-0", "-TAL-1", 1)+".jpg"))
		case 5:
			other := a
			other.hue = hues[(i*5+4)%len(hues)]
			files = append(files, picture(other, front, sku+"_1.jpg"), picture(a, detail, sku+"_2.jpg"))
		case 6:
			files = append(files, picture(a, front, sku+"/DSC_0"+fmt.Sprint(310+i)+".jpg"), picture(a, detail, sku+"/DSC_0"+fmt.Sprint(311+i)+".jpg"))
		case 7:
			files = append(files, picture(a, front, sku[:len(sku)-1]+".jpg"))
		}
	}
	for i, a := range all[:60] {
		sku := a.sku
		switch i % 12 {
		case 0:
			files = append(files, picture(a, front, a.title+" "+a.hue.word+".jpg"))
		case 1:
			files = append(files, picture(a, front, strings.Replace(sku, "0", "O", 1)+".jpg"))
		case 2:
			files = append(files, picture(a, front, sku+".jpg"), picture(a, front, sku+" - Copy.jpg"))
		case 3:
			files = append(files, picture(a, front, sku+" + "+all[i+1].sku+".jpg"))
		case 4:
			files = append(files, file{sku + "_1.jpg", func() []byte { return drawing(a, front, 120) }})
		case 5:
			files = append(files, file{sku + "_sideways.jpg", func() []byte { return sideways(drawing(a, front, side)) }})
		case 6:
			files = append(files, file{"IMG_" + fmt.Sprint(4400+i) + ".JPG", func() []byte { return drawing(a, front, side) }})
		case 7:
			files = append(files, file{sku + "-front.png", func() []byte { return drawing(a, front, side) }})
		case 8:
			files = append(files, file{sku + "-2.jpg", func() []byte { b := drawing(a, detail, side); return b[:len(b)/2] }})
		case 9:
			files = append(files, picture(a, front, strings.ToLower(strings.ReplaceAll(sku, "-", ""))+"(1).jpg"), picture(a, back, strings.ToLower(strings.ReplaceAll(sku, "-", ""))+"(2).jpg"))
		case 10:
			files = append(files, file{sku + ".jpg", func() []byte { return []byte("see mail of Tuesday\n") }})
		default:
			files = append(files, picture(a, front, sku+".jpg"), picture(a, detail, sku+" detail.jpg"))
		}
	}
	// The photographer's telephone, its clock and its counter; sizes and sisters in one picture.
	for i, a := range all[:10] {
		sku := a.sku
		switch i {
		case 0:
			files = append(files, picture(a, front, "Screenshot_20240513-140812.png"))
		case 1:
			files = append(files, picture(a, front, "2024/05/IMG_1234.jpg"))
		case 2:
			files = append(files, picture(a, front, sku+"+"+all[1].hue.code+".jpg"))
		case 4:
			files = append(files, picture(a, front, sku+"_14. Januar 2025.jpg"))
		case 5:
			files = append(files, picture(a, detail, sku+"_1920x1080_2.jpg"))
		case 6:
			files = append(files, picture(a, front, a.product+"/"+a.hue.code+"/1.jpg"))
		case 7:
			files = append(files, picture(a, front, a.product+"-ROS.jpg"))
		case 8:
			files = append(files, file{sku + ".jpg:Zone.Identifier", func() []byte { return []byte("[ZoneTransfer]\r\nZoneId=3\r\n") }})
		}
	}
	return append(files, file{"price list, final v2.txt", func() []byte { return []byte("sku;price\n") }})
}

// sideways returns a JPEG the word that it is to be turned by a quarter: EXIF orientation 6 (CIPA DC-008).
func sideways(jpeg []byte) []byte {
	return withEXIF(jpeg, []byte("MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00"))
}

// withEXIF returns a JPEG with metadata, which are as TIFF has them (CIPA DC-008, 4.7.2).
func withEXIF(jpeg, tiff []byte) []byte {
	const begins = "Exif\x00\x00"
	var b bytes.Buffer
	b.Write(jpeg[:2])
	b.Write([]byte{0xff, 0xe1})
	_ = binary.Write(&b, binary.BigEndian, uint16(2+len(begins)+len(tiff))) // into memory it always goes
	b.WriteString(begins)
	b.Write(tiff)
	b.Write(jpeg[2:])
	return b.Bytes()
}

// writeZip writes files as an archive, stored, since pictures don't pack.
func writeZip(w io.Writer, files []file) error {
	z := zip.NewWriter(w)
	for _, f := range files {
		entry, err := z.CreateHeader(&zip.FileHeader{Name: f.path, Method: zip.Store})
		if err != nil {
			return err
		}
		if _, err := entry.Write(f.make()); err != nil {
			return err
		}
	}
	return z.Close()
}
