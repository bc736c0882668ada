package pair

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	core "ambrosa/core/catalogue"
	"ambrosa/core/colour"
	"ambrosa/core/pairing"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tables"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

const table = "sku,product,title,barcode,category,colour,supplier code\n" +
	"PK-140,,Drift Delta 140,,Kites,,\n" +
	"PK-140-AMB,PK-140,,9521234500018,,amber,CW-8801\n" +
	"PK-140-PLM,PK-140,,,,plum,CW-8802\n" +
	"PK-150,,Lark Box 150,,Kites,,CW-8803\n" +
	"T-100,,Moss Reel,,Reels,,CW-8804\n" +
	"T-100-2,,Moss Reel two,,Reels,,CW-8805\n"

// station is a bench with a catalogue and a delivery of these names, each with a picture of its own.
type station struct {
	*Pairer
	t        *testing.T
	person   int64
	delivery int64
	arrivals map[string]int64
}

func newStation(t *testing.T, names ...string) *station {
	t.Helper()
	s, person := storetest.New(t)
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	runner := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	st := &station{&Pairer{Store: s, Ledger: runner, Snapshots: &catalogue.Snapshots{Store: s}}, t, person, 0, map[string]int64{}}
	st.load(table)
	if st.delivery, err = s.AddDelivery(ctx, query.AddDeliveryParams{Title: "test", Source: []byte("{}"), Open: true, CreatedBy: person}); err != nil {
		t.Fatal(err)
	}
	st.exec("UPDATE delivery SET open = false")
	st.exec("INSERT INTO job (kind, subject, state) SELECT 'take_in', id, 'done' FROM delivery")
	st.exec("INSERT INTO upload (id, delivery_id, path, bytes, created_by) VALUES ('u', $1, 'a.zip', 1, $2)", st.delivery, person)
	amber := colour.Pack([]colour.Swatch{{Lab: colour.RGB{R: 0xd9, G: 0x8a, B: 0x1f}.Lab(), Share: 1}})
	for i, name := range names {
		st.exec(`WITH a AS (INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette) VALUES (sha256($1::text::bytea), 1, 'JPEG', 9, 9, $2, $3) RETURNING id)
			INSERT INTO arrival (delivery_id, item, path, bytes, asset_id) SELECT $4, $1, $1, 1, id FROM a`, name, i, amber, st.delivery)
	}
	rows, err := s.Arrivals(ctx, query.ArrivalsParams{Delivery: st.delivery})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		st.arrivals[r.Path] = r.ID
	}
	return st
}

func (st *station) exec(sql string, args ...any) {
	st.t.Helper()
	if _, err := st.Store.Pool.Exec(ctx, sql, args...); err != nil {
		st.t.Fatal(err)
	}
}

func (st *station) load(table string) {
	st.t.Helper()
	plan, err := (&tables.Tables{Store: st.Store, Ledger: st.Ledger}).PlanText(ctx, "test", table, st.person)
	if err != nil {
		st.t.Fatal(err)
	}
	st.run(plan)
}

func (st *station) run(plan int64) {
	st.t.Helper()
	run, err := st.Ledger.Apply(ctx, plan, st.person)
	if err != nil {
		st.t.Fatal(err)
	}
	if _, err := st.Ledger.Finish(ctx, run); err != nil {
		st.t.Fatal(err)
	}
}

// sku is the number of an owner.
func (st *station) sku(sku string) (id int64) {
	st.t.Helper()
	if err := st.Store.Pool.QueryRow(ctx, "SELECT id FROM owner WHERE identity = $1", core.Identity(sku)).Scan(&id); err != nil {
		st.t.Fatal(sku, err)
	}
	return id
}

// byOwner reads all owners' views, one in each piece.
func (st *station) byOwner(rule placement.Rule) (all []OwnerView, version string, err error) {
	for after := int64(0); ; {
		page, err := st.ByOwner(ctx, st.delivery, rule, after, 1)
		if err != nil {
			return nil, "", err
		}
		all = append(all, page.Views...)
		if page.Next == 0 {
			if len(all) != page.Total {
				st.t.Errorf("%d owners in pieces, said are %d", len(all), page.Total)
			}
			return all, page.Version, nil
		}
		after = page.Next
	}
}

// says returns each line as grade, owners with places, and who decided it.
func (st *station) says() map[string]string {
	st.t.Helper()
	p, err := st.Pair(ctx, st.delivery)
	if err != nil {
		st.t.Fatal(err)
	}
	out := map[string]string{}
	for _, l := range p.Lines {
		s := string(l.Claim.Grade)
		for _, share := range l.Shares {
			labels, err := catalogue.Labels(ctx, st.Store, []int64{share.Owner})
			if err != nil {
				st.t.Fatal(err)
			}
			s += fmt.Sprintf(" %s.%d", labels[share.Owner].SKU, share.Place)
		}
		if l.Person != "" {
			s += " by " + l.Person
		}
		if l.Aside {
			s += " aside"
		}
		out[l.Arrival.Path] = s
	}
	return out
}

func (st *station) expect(want map[string]string) {
	st.t.Helper()
	got := st.says()
	for path, w := range want {
		if got[path] != w {
			st.t.Errorf("%s: %q, want %q", path, got[path], w)
		}
	}
}

// Decisions by hand survive another ladder; a picture may go to several owners; orders hold; all of it can be taken back.
func TestDecisions(t *testing.T) {
	st := newStation(t, "PK-140-AMB_1.jpg", "PK-140-AMB_2.jpg", "9521234500018_3.jpg", "mystery.jpg", "CW-8803.jpg")
	engine := map[string]string{"PK-140-AMB_1.jpg": "sure PK-140-AMB.1", "PK-140-AMB_2.jpg": "sure PK-140-AMB.2", "9521234500018_3.jpg": "sure PK-140-AMB.3",
		"mystery.jpg": "unclaimed", "CW-8803.jpg": "sure PK-150.1"}
	st.expect(engine)

	amber, plum := st.sku("PK-140-AMB"), st.sku("PK-140-PLM")
	err := st.Decide(ctx, st.delivery, st.person, []Decision{
		{Arrival: st.arrivals["mystery.jpg"], Owners: []Share{{Owner: plum}, {Owner: amber, Rank: 1}}},
		{Arrival: st.arrivals["CW-8803.jpg"], Aside: true},
	})
	if err != nil {
		t.Fatal(err)
	}
	// A place that a person gave goes behind those that nobody did.
	st.expect(map[string]string{"mystery.jpg": "unclaimed PK-140-PLM.1 PK-140-AMB.4 by mo", "CW-8803.jpg": "sure by mo aside", "PK-140-AMB_1.jpg": "sure PK-140-AMB.1"})
	before, err := st.Pair(ctx, st.delivery)
	if err != nil {
		t.Fatal(err)
	}
	if err := st.Choose(ctx, st.delivery, pairing.Choice{Ladder: pairing.Ladder{{Field: pairing.Barcode, Fit: pairing.Whole}}}); err != nil {
		t.Fatal(err)
	}
	got := st.says()
	if got["PK-140-AMB_1.jpg"] != "unclaimed" || got["9521234500018_3.jpg"] != "sure PK-140-AMB.1" || !strings.HasSuffix(got["mystery.jpg"], " by mo") || got["CW-8803.jpg"] != "unclaimed by mo aside" {
		t.Errorf("by barcode alone: %v", got)
	}
	// Who has the version before is told just what changed.
	p, err := st.Since(ctx, st.delivery, before.Version, 0, 1000)
	if err != nil || p.Whole {
		t.Fatalf("whole %v, %v", p.Whole, err)
	}
	var paths []string
	for _, i := range p.Changed {
		paths = append(paths, p.Lines[i].Arrival.Path)
	}
	slices.Sort(paths)
	if want := []string{"9521234500018_3.jpg", "CW-8803.jpg", "PK-140-AMB_1.jpg", "PK-140-AMB_2.jpg", "mystery.jpg"}; !slices.Equal(paths, want) {
		t.Errorf("changed are %v, want %v", paths, want)
	}
	if n, err := st.Since(ctx, st.delivery, p.Version, 0, 1000); len(n.Changed) > 0 || n.Whole || err != nil {
		t.Errorf("nothing changed since, and yet %v, whole %v, %v", n.Changed, n.Whole, err)
	}
	if n, _ := st.Since(ctx, st.delivery, "0.0.0.0", 0, 1000); !n.Whole {
		t.Error("a version nobody knows gets the whole")
	}

	if err := st.Choose(ctx, st.delivery, pairing.Choice{}); err != nil {
		t.Fatal(err)
	}
	if err := st.TakeBack(ctx, st.delivery, st.person, []int64{st.arrivals["mystery.jpg"], st.arrivals["CW-8803.jpg"]}); err != nil {
		t.Fatal(err)
	}
	st.expect(engine)

	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: 999_999, Owners: []Share{{Owner: amber}}}}); !errors.Is(err, ErrForeign) {
		t.Errorf("a line of no delivery: %v", err)
	}
	err = st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: st.arrivals["mystery.jpg"], Owners: []Share{{Owner: amber}}}, {Arrival: st.arrivals["CW-8803.jpg"], Owners: []Share{{Owner: 999_999}}}})
	if !errors.Is(err, ErrForeign) {
		t.Errorf("an owner that is not there: %v", err)
	}
	st.expect(engine)
}

// A catalogue that changes while a bench is open is paired with as it stands. What a person decided for an owner that is
// taken out waits until it comes back.
func TestCatalogueChanges(t *testing.T) {
	st := newStation(t, "PK-160.jpg", "PK-150.jpg", "mystery.jpg")
	st.expect(map[string]string{"PK-160.jpg": "unclaimed", "PK-150.jpg": "sure PK-150.1"})
	before, err := st.Pair(ctx, st.delivery)
	if err != nil {
		t.Fatal(err)
	}
	st.load("sku,title\nPK-160,Fell Sled 160\n")
	st.expect(map[string]string{"PK-160.jpg": "sure PK-160.1", "PK-150.jpg": "sure PK-150.1"})
	p, err := st.Since(ctx, st.delivery, before.Version, 0, 1000)
	if err != nil || p.Whole || len(p.Changed) != 1 || !p.Renamed || p.Catalogue == before.Catalogue {
		t.Errorf("one line is paired anew: %v, whole %v, catalogue %d after %d, %v", p.Changed, p.Whole, p.Catalogue, before.Catalogue, err)
	}
	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: st.arrivals["mystery.jpg"], Owners: []Share{{Owner: st.sku("PK-160")}}}}); err != nil {
		t.Fatal(err)
	}
	st.expect(map[string]string{"mystery.jpg": "unclaimed PK-160.1 by mo"})
	// The import is undone: the owner under the claim and the decision is gone.
	undo, err := st.Ledger.PlanUndo(ctx, 2, st.person)
	if err != nil {
		t.Fatal(err)
	}
	st.run(undo)
	st.expect(map[string]string{"PK-160.jpg": "unclaimed", "mystery.jpg": "unclaimed by mo", "PK-150.jpg": "sure PK-150.1"})
	redo, err := st.Ledger.PlanUndo(ctx, 3, st.person)
	if err != nil {
		t.Fatal(err)
	}
	st.run(redo)
	st.expect(map[string]string{"PK-160.jpg": "sure PK-160.2", "mystery.jpg": "unclaimed PK-160.1 by mo", "PK-150.jpg": "sure PK-150.1"})
}

// What a picture looks like is pointed out and changes no grade: another colour than its variant's, and the same picture
// in another file. By owner, every house rule shows what it would do.
func TestLooksAndViews(t *testing.T) {
	st := newStation(t, "PK-140-AMB_0.jpg", "PK-140-AMB_1.jpg", "PK-140-PLM_0.jpg", "T-100-0.jpg", "T-100-1.jpg", "T-100-2.jpg")
	st.exec("UPDATE asset SET likeness = 7")
	plum := colour.Pack([]colour.Swatch{{Lab: colour.RGB{R: 0x7a, G: 0x2e, B: 0x5d}.Lab(), Share: 1}})
	p, err := st.Pair(ctx, st.delivery)
	if err != nil {
		t.Fatal(err)
	}
	looks := func() (all []string) {
		t.Helper()
		p, err = st.Pair(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range p.Lines {
			if l.Colour != "" || l.Alike != "" {
				all = append(all, fmt.Sprintf("%s %s%.4s", l.Arrival.Path, l.Colour, l.Alike))
			}
		}
		return all
	}
	// Three amber pictures stand on amber variants: that is what amber looks like here, and the plum one shows it too.
	st.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT $1, row_number() OVER (), asset_id FROM arrival WHERE path LIKE 'PK-140-AMB%'", st.sku("PK-140-AMB"))
	st.load("sku,product,title,colour\nQ-1,,One,\nQ-1-A,Q-1,,amber\nQ-1-B,Q-1,,amber\n")
	st.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT o.id, 1, a.asset_id FROM owner o, arrival a WHERE o.sku LIKE 'Q-1-%' AND a.path = 'PK-140-AMB_0.jpg'")
	st.exec("UPDATE catalogue_state SET pictures = pictures + 1")
	if got := looks(); !slices.Equal(got, []string{"PK-140-PLM_0.jpg It looks amber, not plum."}) {
		t.Errorf("looks: %v", got)
	}
	st.exec("UPDATE asset SET palette = $1 WHERE id = (SELECT asset_id FROM arrival WHERE path = 'PK-140-PLM_0.jpg')", plum)
	st.exec("DELETE FROM placement")
	st.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT $1, 1, asset_id FROM arrival WHERE path = 'PK-140-AMB_1.jpg'", st.sku("PK-140-AMB"))
	st.exec("UPDATE catalogue_state SET pictures = pictures + 1, owners = owners + 1")
	if got := looks(); len(got) != 1 || !strings.HasPrefix(got[0], "PK-140-AMB_0.jpg ") {
		t.Errorf("the picture that looks like the one that stands: %v", got)
	}

	// T-100-2 is number 2 of T-100 or the other product: it is contested, and left out. Numbers start at 0 here.
	want := map[placement.Rule]string{
		placement.OnlyWhereEmpty: "PK-140-AMB 1→1, PK-140-PLM 0→1, T-100 0→2",
		placement.AddAfter:       "PK-140-AMB 1→2, PK-140-PLM 0→1, T-100 0→2",
		placement.SamePlace:      "PK-140-AMB 1→2, PK-140-PLM 0→1, T-100 0→2",
		placement.WholeSet:       "PK-140-AMB 1→2, PK-140-PLM 0→1, T-100 0→2",
	}
	for rule, want := range want {
		views, version, err := st.byOwner(rule)
		if err != nil || version != p.Version {
			t.Fatal(err, version)
		}
		var got []string
		for _, v := range views {
			labels, err := catalogue.Labels(ctx, st.Store, []int64{v.Owner})
			if err != nil {
				t.Fatal(err)
			}
			got = append(got, fmt.Sprintf("%s %d→%d", labels[v.Owner].SKU, len(v.Now), len(v.Then)))
		}
		slices.Sort(got)
		if strings.Join(got, ", ") != want {
			t.Errorf("%s: %s, want %s", rule, strings.Join(got, ", "), want)
		}
	}
	if !p.fromZero {
		t.Error("the delivery numbers from 0 on")
	}
	if _, _, err := st.byOwner("no such"); !errors.Is(err, ErrRule) {
		t.Errorf("an unknown rule: %v", err)
	}
}

// What is shown by owner under a house rule is what its plan does, and undoing the run brings back what stood.
func TestPlanIsWhatIsShown(t *testing.T) {
	for _, rule := range placement.Rules {
		st := newStation(t, "PK-140-AMB_2.jpg", "PK-140-AMB.jpg", "PK-140-AMB_2 - Copy.jpg", "9521234500018-7.jpg", "PK-140-PLM front.jpg", "PK-140-PLM packed.jpg", "PK-140-PLM_1.jpg",
			"CW-8803 (3).jpg", "mystery.jpg", "standing.jpg", "T-100-1.jpg", "T-100-2.jpg")
		amber, box := st.sku("PK-140-AMB"), st.sku("PK-150")
		err := st.Decide(ctx, st.delivery, st.person, []Decision{
			{Arrival: st.arrivals["mystery.jpg"], Owners: []Share{{Owner: box, Rank: 1}, {Owner: amber}}},
			{Arrival: st.arrivals["standing.jpg"], Aside: true},
		})
		if err != nil {
			t.Fatal(err)
		}
		// The amber one has two pictures already, of which the delivery brings one again.
		st.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT $1, row_number() OVER (ORDER BY path DESC), asset_id FROM arrival WHERE path IN ('standing.jpg', 'PK-140-AMB.jpg')", amber)
		st.exec("UPDATE catalogue_state SET pictures = pictures + 1")
		stood := st.stands()
		views, _, err := st.byOwner(rule)
		if err != nil {
			t.Fatal(err)
		}
		want := maps.Clone(stood)
		for _, v := range views {
			want[v.Owner] = v.Then
			if !slices.Equal(v.Now, stood[v.Owner]) {
				t.Errorf("%s: owner %d has %v now, shown are %v", rule, v.Owner, stood[v.Owner], v.Now)
			}
		}
		plan, err := st.Plan(ctx, st.delivery, st.person, "test", rule)
		if err != nil {
			t.Fatal(err)
		}
		if got := st.stands(); !maps.EqualFunc(got, stood, slices.Equal) {
			t.Errorf("%s: the plan alone changed %v to %v", rule, stood, got)
		}
		run, err := st.Ledger.Apply(ctx, plan, st.person)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := st.Ledger.Finish(ctx, run); err != nil {
			t.Fatal(err)
		}
		if got := st.stands(); !maps.EqualFunc(got, want, slices.Equal) || maps.EqualFunc(got, stood, slices.Equal) {
			t.Errorf("%s: %v stands, shown was %v", rule, got, want)
		}
		undo, err := st.Ledger.PlanUndo(ctx, run, st.person)
		if err != nil {
			t.Fatal(err)
		}
		st.run(undo)
		if got := st.stands(); !maps.EqualFunc(got, stood, slices.Equal) {
			t.Errorf("%s: undone, %v stands, before it was %v", rule, got, stood)
		}
	}
	st := newStation(t, "PK-150.jpg")
	if _, err := st.Plan(ctx, st.delivery, st.person, "test", "no such"); !errors.Is(err, ErrRule) {
		t.Errorf("an unknown rule: %v", err)
	}
}

// stands are the owners' pictures in their order.
func (st *station) stands() map[int64][]int64 {
	st.t.Helper()
	rows, err := st.Store.Pool.Query(ctx, "SELECT owner_id, array_agg(asset_id ORDER BY position) FROM placement GROUP BY owner_id")
	if err != nil {
		st.t.Fatal(err)
	}
	defer rows.Close()
	out := map[int64][]int64{}
	for rows.Next() {
		var owner int64
		var pictures []int64
		if err := rows.Scan(&owner, &pictures); err != nil {
			st.t.Fatal(err)
		}
		out[owner] = pictures
	}
	return out
}
