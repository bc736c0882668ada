package rights

import "testing"

func TestStrictest(t *testing.T) {
	const today = "2026-11-26"
	cleared, internal, not := Rights{May: Cleared}, Rights{May: Internal}, Rights{May: NotCleared}
	soon, ended, last := Rights{May: Cleared, Until: "2026-12-01"}, Rights{May: Cleared, Until: "2026-11-25"}, Rights{May: Cleared, Until: today}
	for _, c := range []struct {
		said  []Rights
		want  Rights
		holds string
	}{
		{nil, Rights{}, ""}, {[]Rights{{}, cleared}, cleared, ""}, {[]Rights{cleared, internal}, internal, ""}, {[]Rights{internal, not, cleared}, not, "rights_not_cleared"},
		{[]Rights{cleared, soon}, soon, ""}, {[]Rights{internal, ended}, ended, "rights_ended"}, {[]Rights{last, cleared}, last, ""}, {[]Rights{soon, last}, last, ""},
		{[]Rights{{Until: "2020-01-01"}}, Rights{Until: "2020-01-01"}, ""},
	} {
		got := Strictest(c.said, today)
		why, _ := got.Holds(today)
		if got != c.want || why.Code != c.holds {
			t.Errorf("%v: %v, held by %q; want %v, %q", c.said, got, why.Code, c.want, c.holds)
		}
	}
}
