package pairing

import (
	"fmt"
	"testing"
)

func TestTmp(t *testing.T) {
	for _, c := range []struct {
		keys  []string
		names []string
	}{
		{[]string{"1080p", "1920x1080", "A4", "V2", "IMG-4711", "DSC01234", "2024-05", "2024-05-13", "50mm", "FRONT", "COPY", "FINAL", "P1010023", "1080", "36", "S", "XL", "Nr-5", "NO5", "v2-100", "4K-TV", "A2-100", "PO-4711", "Order 7", "300dpi", "B2B", "01-02-03", "2024-001", "24-05-13", "12", "2.5", "A-1", "page-3", "Bild", "Foto-12", "3D", "360"}, []string{"1080p_2.jpg", "1920x1080.jpg", "1920x1080_2.jpg", "A4.jpg", "A4_2.jpg", "V2.jpg", "V2_3.jpg", "IMG-4711.jpg", "IMG-4711_2.jpg", "DSC01234.jpg", "2024-05.jpg", "2024-05_2.jpg", "2024-05-13_2.jpg", "50mm_2.jpg", "front.jpg", "FRONT_2.jpg", "FRONT_front.jpg", "COPY.jpg", "COPY_2.jpg", "FINAL_2.jpg", "FINAL_final.jpg", "P1010023.jpg", "1080_2.jpg", "36_2.jpg", "36.jpg", "XL_2.jpg", "Nr-5.jpg", "Nr-5_2.jpg", "NO5_2.jpg", "v2-100_3.jpg", "4K-TV_2.jpg", "A2-100_1.jpg", "PO-4711_2.jpg", "Order 7_2.jpg", "300dpi_2.jpg", "B2B_1.jpg", "01-02-03_2.jpg", "2024-001_2.jpg", "2024-001.jpg", "24-05-13_2.jpg", "12_2.jpg", "12/2.jpg", "2.5_2.jpg", "A-1_2.jpg", "page-3_2.jpg", "Bild_2.jpg", "Foto-12_2.jpg", "3D_2.jpg", "360_2.jpg", "A4/2.jpg", "V2/2.jpg", "1080p/2.jpg", "FRONT/2.jpg", "36/2.jpg", "2024-05/2.jpg", "IMG-4711/2.jpg", "XL/3.jpg", "50mm/front.jpg"}},
		{[]string{"MZ979X-XL", "Käfer-12", "SÜD-7", "Straße 9", "Ærø-4", "Löwe", "Große Höhe 5"}, []string{"MZ979-XXL.jpg", "MZ979XXL.jpg", "Kaefer-12_2.jpg", "KAFER-12.jpg", "Käfer-12.jpg", "Kfer-12.jpg", "K_fer-12.jpg", "SUED7.jpg", "SUD-7_2.jpg", "Strasse 9.jpg", "STRASSE9_2.jpg", "strase 9.jpg", "Aeroe-4.jpg", "aero-4.jpg", "Loewe_2.jpg", "lowe.jpg", "KÃ¤fer-12_2.jpg", "grosse hoehe 5_2.jpg"}},
	} {
		all := owners(c.keys...)
		for i := range all {
			all[i].Kind = Product
		}
		for _, p := range c.names {
			cl := Pair(NewIndex(all), paths(p), nil)[0]
			s := at(all, p, cl)
			if cl.Reading == nil && len(cl.Candidates) > 0 {
				s += " ["
				for _, r := range cl.Candidates {
					s += r.Key + " "
				}
				s += "]"
			}
			fmt.Printf("%-48s %-52s %s\n", p, s, cl.Why)
		}
		fmt.Println()
	}
}
