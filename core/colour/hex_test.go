package colour

import "testing"

func TestReadHex(t *testing.T) {
	for _, c := range []RGB{{}, {255, 255, 255}, {1, 2, 3}, {0xa5, 0x5a, 0}} {
		for _, text := range []string{c.Hex(), c.Hex()[1:]} {
			if got, ok := ReadHex(text); !ok || got != c {
				t.Errorf("%s is read as %v, %v", text, got, ok)
			}
		}
	}
	for _, text := range []string{"", "#", "#fff", "#1234567", "##12345", "#12345g", "+12345", "#-12345"} {
		if got, ok := ReadHex(text); ok {
			t.Errorf("%q is read as %v", text, got)
		}
	}
}
