package assets

import (
	"strings"
	"time"
)

// Taking is when a photo was taken, by the camera's clock, and by which camera; zero and empty where its metadata say nothing.
type Taking struct {
	At     time.Time
	Camera string // its serial number, else its maker and model
}

// Taking reads it from the metadata. Source: CIPA DC-008 (EXIF 2.32), 4.6.5 and 4.6.6: DateTimeOriginal, SubSecTimeOriginal, BodySerialNumber.
func (m Metadata) Taking() (t Taking) {
	when := m.first("EXIF:DateTimeOriginal", "EXIF:DateTimeDigitized", "EXIF:CreateDate")
	for _, layout := range []string{"2006:01:02 15:04:05", "2006-01-02 15:04:05", "2006-01-02T15:04:05"} {
		if at, err := time.Parse(layout, strings.TrimSpace(when)); err == nil && at.Year() > 1971 && at.Year() < 9999 {
			t.At = at
			break
		}
	}
	if parts := m.first("EXIF:SubSecTimeOriginal", "EXIF:SubSecTimeDigitized"); parts != "" && !t.At.IsZero() {
		if d, err := time.ParseDuration("0." + strings.TrimSpace(parts) + "s"); err == nil && d >= 0 && d < time.Second {
			t.At = t.At.Add(d.Truncate(time.Microsecond))
		}
	}
	t.Camera = m.first("EXIF:BodySerialNumber", "EXIF:SerialNumber", "EXIF:CameraSerialNumber")
	if t.Camera == "" {
		t.Camera = strings.TrimSpace(m.first("EXIF:Make") + " " + m.first("EXIF:Model"))
	}
	const most = 100
	if len(t.Camera) > most {
		t.Camera = strings.ToValidUTF8(t.Camera[:most], "")
	}
	return t
}
