package people

import (
	"ambrosa/core/change"
	"ambrosa/internal/store/query"
	"context"
	"errors"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"testing"

	"ambrosa/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

const password = "a-steady-wind"

var here, elsewhere = netip.MustParseAddr("10.0.0.1"), netip.MustParseAddr("10.9.0.2")

func register(t *testing.T) *Register {
	t.Helper()
	s, _ := storetest.New(t)
	r := &Register{Store: s}
	if _, err := r.Add(ctx, 0, "Ines", password, Editor); err != nil {
		t.Fatal(err)
	}
	return r
}

func (r *Register) exec(t *testing.T, sql string) {
	t.Helper()
	if _, err := r.Store.Pool.Exec(ctx, sql); err != nil {
		t.Fatal(err)
	}
}

func TestAdd(t *testing.T) {
	r := register(t)
	for _, c := range []struct {
		name, password string
		role           Role
		want           error
	}{
		{" Ines ", password, Viewer, ErrTaken}, // blanks around a name are nobody's
		{"", password, Viewer, ErrName},
		{strings.Repeat("é", 61), password, Viewer, ErrName},
		{strings.Repeat("é", 60), password, Viewer, nil},
		{"ada", "too-short", Viewer, ErrWeak},
		{"ada", strings.Repeat("é", minPassword), Viewer, nil}, // characters count, not bytes
		{"bo", password, "owner", ErrRole},
		{"bo", password, "", ErrRole},
		{"Іnes", password, Viewer, ErrTaken},  // a Cyrillic letter
		{"Ｉnes", password, Viewer, ErrTaken},  // a wide one
		{"in.es", password, Viewer, ErrTaken}, // separators are folded, as in file names
		{"ne\u200bo", password, Viewer, ErrName},
		{"a\x00b", password, Viewer, ErrName},
		{"a<b>", password, Viewer, ErrName},
		{"---", password, Viewer, ErrName},
		{"Zoë  O'Neill-2", password, Viewer, nil},
	} {
		if _, err := r.Add(ctx, 0, c.name, c.password, c.role); !errors.Is(err, c.want) {
			t.Errorf("%q as %q: %v, want %v", c.name, c.role, err, c.want)
		}
	}
}

func TestMay(t *testing.T) {
	for _, c := range []struct {
		role, needed Role
		may          bool
	}{
		{Viewer, Viewer, true}, {Viewer, Editor, false}, {Viewer, Admin, false}, {Editor, Viewer, true}, {Editor, Editor, true}, {Editor, Admin, false},
		{Admin, Viewer, true}, {Admin, Editor, true}, {Admin, Admin, true}, {"", Viewer, false}, {"other", Viewer, false},
	} {
		if got := c.role.May(c.needed); got != c.may {
			t.Errorf("%q may as %q: %v", c.role, c.needed, got)
		}
	}
}

// A session is good until it is ended or runs out; what the database keeps is no word that could be used.
func TestSession(t *testing.T) {
	r := register(t)
	for _, wrong := range [][2]string{{"Ines", "another-wind"}, {"nobody", password}, {"", ""}, {"Ines", ""}} {
		if _, _, err := r.SignIn(ctx, wrong[0], wrong[1], here); !errors.Is(err, ErrSignIn) {
			t.Errorf("%q: %v", wrong, err)
		}
	}
	session, person, err := r.SignIn(ctx, " Ines", password, here)
	if err != nil || person.Name != "Ines" || person.Role != Editor || person.CSRF == "" {
		t.Fatalf("%+v, %v", person, err)
	}
	if got, err := r.BySession(ctx, session); err != nil || got != person {
		t.Errorf("the session is %+v, %v, want %+v", got, err, person)
	}
	other, _, err := r.SignIn(ctx, "Ines", password, elsewhere)
	if err != nil || other == session {
		t.Errorf("a second sign-in gives the same word, or %v", err)
	}
	var kept bool
	if err := r.Store.Pool.QueryRow(ctx, "SELECT exists(SELECT FROM session WHERE token_hash = $1)", []byte(session)).Scan(&kept); err != nil || kept {
		t.Errorf("the CSRF token itself is kept: %v, %v", kept, err)
	}
	if err := r.SignOut(ctx, session); err != nil {
		t.Fatal(err)
	}
	for _, none := range []string{session, "", "made up"} {
		if _, err := r.BySession(ctx, none); !errors.Is(err, ErrUnknown) {
			t.Errorf("session %q: %v", none, err)
		}
	}
	if _, err := r.BySession(ctx, other); err != nil {
		t.Errorf("signing out elsewhere ended this session: %v", err)
	}
	r.exec(t, "UPDATE session SET expires_at = now() - interval '1 second'")
	if _, err := r.BySession(ctx, other); !errors.Is(err, ErrUnknown) {
		t.Errorf("a session that has run out: %v", err)
	}
}

// Guessing is stopped for a name from a network, whatever the password, and let go after a quarter of an hour. Nobody locks
// out anybody else, and many guesses at once are no more than one after the other.
func TestTooMany(t *testing.T) {
	r := register(t)
	if _, err := r.Add(ctx, 0, "Ada", password, Viewer); err != nil {
		t.Fatal(err)
	}
	var wg sync.WaitGroup
	looked := make(chan error, 16)
	for range 16 {
		wg.Go(func() {
			_, _, err := r.SignIn(ctx, "ines", "a guess", here)
			looked <- err
		})
	}
	wg.Wait()
	close(looked)
	wrong := 0
	for err := range looked {
		if errors.Is(err, ErrSignIn) {
			wrong++
		} else if !errors.Is(err, ErrTooMany) {
			t.Errorf("a guess among 16: %v", err)
		}
	}
	if wrong > maxFailures {
		t.Errorf("%d of 16 guesses at once were looked at, the limit is %d", wrong, maxFailures)
	}
	for ; wrong < maxFailures; wrong++ {
		if _, _, err := r.SignIn(ctx, "ines", "a guess", here); !errors.Is(err, ErrSignIn) {
			t.Fatalf("guess %d: %v", wrong+1, err)
		}
	}
	for _, c := range []struct {
		name string
		from netip.Addr
		want error
	}{
		{"Ines", here, ErrTooMany}, {" ＩＮＥＳ", here, ErrTooMany}, {"Ines", netip.MustParseAddr("10.0.0.200"), ErrTooMany}, // the same network
		{"Ines", elsewhere, nil}, // she herself, at home
		{"Ada", here, nil},       // her colleague beside the guesser
	} {
		if _, _, err := r.SignIn(ctx, c.name, password, c.from); !errors.Is(err, c.want) {
			t.Errorf("%s from %s: %v, want %v", c.name, c.from, err, c.want)
		}
	}
	r.exec(t, "UPDATE signin_attempt SET at = at - interval '16 minutes'")
	if _, _, err := r.SignIn(ctx, "Ines", password, here); err != nil {
		t.Errorf("after a quarter of an hour: %v", err)
	}
}

func TestNetwork(t *testing.T) {
	for _, c := range []struct {
		a, b string
		same bool
	}{
		{"10.0.0.1", "10.0.0.254", true}, {"10.0.0.1", "10.0.1.1", false}, {"::ffff:10.0.0.1", "10.0.0.9", true},
		{"2001:db8:1:2::1", "2001:db8:1:2:ffff::9", true}, {"2001:db8:1:2::1", "2001:db8:1:3::1", false},
	} {
		if got := network(netip.MustParseAddr(c.a)) == network(netip.MustParseAddr(c.b)); got != c.same {
			t.Errorf("%s and %s are one network: %v", c.a, c.b, got)
		}
	}
}

func TestToken(t *testing.T) {
	r := register(t)
	_, person, err := r.SignIn(ctx, "Ines", password, here)
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := r.MakeToken(ctx, person.ID, " "); !errors.Is(err, ErrName) {
		t.Errorf("a token without a name: %v", err)
	}
	id, token, err := r.MakeToken(ctx, person.ID, "price list robot")
	if err != nil || !strings.HasPrefix(token, tokenPrefix) || id == 0 {
		t.Fatalf("%q, %v", token, err)
	}
	// A token's requests need no further word, as no browser sends it by itself.
	if got, err := r.ByToken(ctx, token); err != nil || got != (Person{person.ID, "Ines", Editor, ""}) {
		t.Errorf("%+v, %v", got, err)
	}
	for _, none := range []string{"", token + "x", strings.TrimPrefix(token, tokenPrefix)} {
		if _, err := r.ByToken(ctx, none); !errors.Is(err, ErrUnknown) {
			t.Errorf("token %q: %v", none, err)
		}
	}
}

// People are looked after: a role counts at once, who is signed out or deactivated is out, what they did stays, the last admin stays
// an admin, and the audit list tells all of it.
func TestCare(t *testing.T) {
	st, _ := storetest.New(t)
	r := &Register{Store: st}
	admin, err := r.Add(ctx, 0, "Ada", password, Admin)
	if err != nil {
		t.Fatal(err)
	}
	if err := r.SetRole(ctx, 0, admin, Viewer); !errors.Is(err, ErrLastAdmin) {
		t.Errorf("the last admin is made a viewer: %v", err)
	}
	if err := r.Deactivate(ctx, 0, admin, false); !errors.Is(err, ErrLastAdmin) {
		t.Errorf("the last admin is deactivated: %v", err)
	}
	id, err := r.Add(ctx, admin, "Brae", password, Editor)
	if err != nil {
		t.Fatal(err)
	}
	in := func(word string) (session, token string) {
		t.Helper()
		session, _, err := r.SignIn(ctx, "brae", word, netip.MustParseAddr("192.0.2.1"))
		if err != nil {
			t.Fatal(err)
		}
		if _, token, err = r.MakeToken(ctx, id, "robot"); err != nil {
			t.Fatal(err)
		}
		return session, token
	}
	out := func(session, token string) bool {
		_, a := r.BySession(ctx, session)
		_, b := r.ByToken(ctx, token)
		return errors.Is(a, ErrUnknown) && (token == "" || errors.Is(b, ErrUnknown))
	}
	session, token := in(password)
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	must(r.SetRole(ctx, admin, id, Viewer))
	if p, err := r.BySession(ctx, session); err != nil || p.Role != Viewer {
		t.Errorf("a role counts at once: %+v, %v", p, err)
	}
	must(r.EndSessions(ctx, admin, id))
	if _, err := r.ByToken(ctx, token); !out(session, "") || err != nil {
		t.Errorf("signed out everywhere, and the token works on: %v", err)
	}
	first, _ := in(password)
	second, _ := in(password)
	if err := r.SetPassword(ctx, id, first, "wrong-password", "another-long-word"); !errors.Is(err, ErrPassword) {
		t.Errorf("a password is changed without the old one: %v", err)
	}
	must(r.SetPassword(ctx, id, first, password, "another-long-word"))
	if out(first, "") || !out(second, "") {
		t.Error("the other sessions end with the password, this one stays")
	}
	session, token = in("another-long-word")
	must(r.Deactivate(ctx, admin, id, false))
	if _, _, err := r.SignIn(ctx, "brae", "another-long-word", netip.MustParseAddr("192.0.2.1")); !out(session, token) || !errors.Is(err, ErrSignIn) {
		t.Errorf("deactivated, and signs in: %v", err)
	}
	must(r.Activate(ctx, admin, id))
	in("another-long-word")
	must(r.Deactivate(ctx, admin, id, true))
	if err := r.Activate(ctx, admin, id); !errors.Is(err, ErrFormer) {
		t.Errorf("somebody without a name is activated: %v", err)
	}
	if _, err := r.ByName(ctx, "Brae"); !errors.Is(err, ErrNobody) {
		t.Errorf("the name is still there: %v", err)
	}
	rows, err := st.Audit(ctx, query.AuditParams{Before: 1 << 62, Most: 100})
	must(err)
	var told []string
	for _, a := range slices.Backward(rows[:len(rows)-1]) { // but for the admin
		if told = append(told, a.Code); a.Subject != Former(id) {
			t.Errorf("%s concerns %q", a.Code, a.Subject)
		}
	}
	if want := strings.Fields("person_added signed_in token_made role_changed sessions_ended signed_in token_made signed_in token_made password_changed " +
		"signed_in token_made person_deactivated person_activated signed_in token_made person_anonymised"); !slices.Equal(told, want) {
		t.Errorf("the list tells %v", told)
	}
}

// Settings are changed field by field, and bounded.
func TestSettings(t *testing.T) {
	st, person := storetest.New(t)
	r := &Register{Store: st}
	for _, c := range []struct {
		patch, want string
		err         error
	}{
		{`{"theme": "dark", "columns": {"pair": {"file": 200}}}`, `{"theme": "dark", "columns": {"pair": {"file": 200}}}`, nil},
		{`{"columns": {"pair": {"owner": 90}}}`, `{"theme": "dark", "columns": {"pair": {"file": 200, "owner": 90}}}`, nil},
		{`{"theme": null}`, `{"columns": {"pair": {"file": 200, "owner": 90}}}`, nil},
		{`[1]`, "", ErrSettings}, {`"x"`, "", ErrSettings}, {`{"a": "` + strings.Repeat("x", 40_000) + `"}`, "", ErrSettings},
	} {
		now, err := r.Set(ctx, person, []byte(c.patch))
		if !errors.Is(err, c.err) {
			t.Errorf("%.40s: %v", c.patch, err)
		}
		if c.err != nil {
			continue
		}
		kept, err := r.Settings(ctx, person)
		if err != nil || !change.Same(now, []byte(c.want)) || !change.Same(kept, []byte(c.want)) {
			t.Errorf("%s: %s, kept %s, %v", c.patch, now, kept, err)
		}
	}
}
