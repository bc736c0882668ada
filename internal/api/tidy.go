package api

import (
	"context"
	"net/http"
	"strconv"
	"strings"
	"time"

	core "ambrosa/core/tidy"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tidy"

	"github.com/danielgtaylor/huma/v2"
)

type tidyBody struct {
	Orphans     int64            `json:"orphans" doc:"Pictures that no owner shows."`
	OrphanBytes int64            `json:"orphanBytes"`
	Proposed    int64            `json:"proposed" doc:"Of those the ones that nothing speaks for."`
	Shared      int64            `json:"shared" doc:"Pictures that several products show."`
	Twice       int64            `json:"twice" doc:"Groups of pictures that are one in other bytes."`
	Unfit       map[string]int64 `json:"unfit" doc:"Pictures on owners, by what is wrong with them."`
	Gaps        map[string]int64 `json:"gaps" doc:"Owners, by what they miss."`
	Broken      int64            `json:"broken"`
	Strays      int64            `json:"strays" doc:"Stored blobs that no picture knows."`
	StrayBytes  int64            `json:"strayBytes"`
	Binned      int64            `json:"binned"`
	BinBytes    int64            `json:"binBytes"`
	Unchecked   int64            `json:"unchecked" doc:"Pictures that the checks have still to look at."`
	FoundAt     *time.Time       `json:"foundAt,omitempty" doc:"Of when what is there twice, unfit or missing is."`
	ScrubbedAt  *time.Time       `json:"scrubbedAt,omitempty" doc:"When all stored bytes were read to the end last."`
	Scrubbed    int64            `json:"scrubbed" doc:"How many pictures the look through all stored bytes has read so far."`
	FaultNames  []core.Fault     `json:"faultNames"`
	GapNames    []core.Gap       `json:"gapNames"`
}

// FindPage says where a page of finds begins.
type FindPage struct {
	After int64 `query:"after" minimum:"0" doc:"Give what comes behind this number: the next of the page before."`
	Most  int   `query:"most" minimum:"1" maximum:"500" default:"100"`
}

type findsBody[T any] struct {
	Finds []T   `json:"finds"`
	Next  int64 `json:"next,omitempty" doc:"Where the next page begins; none behind the last."`
}

type orphanBody struct {
	PictureCard
	Why       core.Why     `json:"why"`
	Run       int64        `json:"run,omitempty" doc:"That took it off an owner last."`
	SpeaksFor []core.Voice `json:"speaksFor"`
}

type copyBody struct {
	PictureCard
	Best       bool  `json:"best,omitempty"`
	Apart      int32 `json:"apart" doc:"In how many of 64 bits it differs from the best."`
	TrueWidth  int32 `json:"trueWidth"`
	TrueHeight int32 `json:"trueHeight"`
	Padded     int32 `json:"padded" doc:"Thousandths of a side."`
}

type twiceBody struct {
	Best   int64       `json:"best"`
	Why    core.Reason `json:"why"`
	Copies []copyBody  `json:"copies"`
	Won    int64       `json:"won" doc:"Bytes that the others take."`
}

type unfitPicture struct {
	PictureCard
	Faults []faultBody `json:"faults"`
}

type faultBody struct {
	Fault  core.Fault `json:"fault"`
	Figure float64    `json:"figure"`
}

type gapBody struct {
	Owner    int64      `json:"owner"`
	Kind     string     `json:"kind"`
	SKU      string     `json:"sku"`
	Label    string     `json:"label"`
	Product  int64      `json:"product,omitempty" doc:"Of a variant."`
	Category int64      `json:"category,omitempty"`
	Gaps     []core.Gap `json:"gaps"`
}

type sharedBody struct {
	PictureCard
	Judged   core.Shared `json:"judged"`
	Products []string    `json:"products" doc:"Titles, the first twenty."`
}

func (s *Server) tidyRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy", "count-tidy", "How much there is to tidy"),
		func(ctx context.Context, _ *struct{}) (*body[tidyBody], error) {
			b, err := s.tidyCounts(ctx)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/orphans", "list-orphans", "Pictures that no owner shows, why, and what speaks for them"),
		func(ctx context.Context, in *struct {
			FindPage
			Only bool `query:"only" doc:"Only those for which nothing speaks."`
		}) (*body[findsBody[orphanBody]], error) {
			b, err := s.orphans(ctx, in.FindPage, in.Only)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/twice", "list-twice", "Pictures that are one in other bytes, group by group"),
		func(ctx context.Context, in *FindPage) (*body[findsBody[twiceBody]], error) {
			b, err := s.twice(ctx, *in)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/shared", "list-shared", "Pictures that several products show"),
		func(ctx context.Context, in *FindPage) (*body[findsBody[sharedBody]], error) {
			b, err := s.shared(ctx, *in)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/unfit", "list-unfit", "Pictures that are unfit, with the figure of each fault"),
		func(ctx context.Context, in *struct {
			FindPage
			Faults     string `query:"faults" maxLength:"200" doc:"Names with commas between; all where none is given."`
			Everywhere bool   `query:"everywhere" doc:"Also those that no owner shows."`
		}) (*body[findsBody[unfitPicture]], error) {
			b, err := s.unfit(ctx, in.FindPage, in.Faults, in.Everywhere)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/gaps", "list-gaps", "Owners that miss something"),
		func(ctx context.Context, in *struct {
			FindPage
			Gaps string `query:"gaps" maxLength:"200" doc:"Names with commas between; all where none is given."`
			In   int64  `query:"in" minimum:"0" doc:"A category: only owners in it or below it."`
		}) (*body[findsBody[gapBody]], error) {
			b, err := s.gaps(ctx, in.FindPage, in.Gaps, in.In)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/broken", "list-broken", "Pictures whose stored bytes are missing or differ"),
		func(ctx context.Context, in *FindPage) (*body[findsBody[brokenBody]], error) {
			b, err := s.broken(ctx, *in)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/tidy/coverage", "list-coverage", "How complete each category is; 0 for owners in none"),
		func(ctx context.Context, _ *struct{}) (*body[[]coverageBody], error) {
			rows, err := s.Store.Coverage(ctx)
			all := make([]coverageBody, len(rows))
			for i, r := range rows {
				all[i] = coverageBody(r)
			}
			return answer(all), problem(err)
		})
}

type coverageBody struct {
	Category int64 `json:"category"`
	Owners   int32 `json:"owners"`
	Complete int32 `json:"complete"`
}

type brokenBody struct {
	PictureCard
	Wrong string `json:"wrong" enum:"missing,differs"`
}

func (s *Server) tidyCounts(ctx context.Context) (b tidyBody, err error) {
	b = tidyBody{Unfit: map[string]int64{}, Gaps: map[string]int64{}, FaultNames: core.Faults, GapNames: core.Gaps}
	c, err := s.Tidy.Counts(ctx)
	if err != nil {
		return b, err
	}
	b.Orphans, b.OrphanBytes, b.Twice = c.Orphans, c.Bytes, c.Twice
	b.Proposed, b.Shared = c.Proposed, c.Shared
	b.Broken, b.Strays, b.StrayBytes = c.Broken.Broken, c.Broken.Strays, c.Broken.StrayBytes
	b.Binned, b.BinBytes, b.Unchecked = c.Bin.Pictures, c.Bin.Bytes, c.Unchecked
	b.FoundAt, b.ScrubbedAt, b.Scrubbed = c.FoundAt, c.ScrubbedAt, c.Scrubbed
	for i, f := range core.Faults {
		b.Unfit[string(f)] = c.Unfit[i]
	}
	for i, g := range core.Gaps {
		b.Gaps[string(g)] = c.Gaps[i]
	}
	return b, nil
}

// pageOfFinds puts finds behind one another in pages: next is the last number where there may be more.
func pageOfFinds[T any](finds []T, last int64, read, most int) findsBody[T] {
	if finds == nil {
		finds = []T{}
	}
	b := findsBody[T]{Finds: finds}
	if read == most {
		b.Next = last
	}
	return b
}

// mostSkipped is how many orphans are read to fill a page with those for which nothing speaks.
const mostSkipped = 5000

func (s *Server) orphans(ctx context.Context, in FindPage, only bool) (b findsBody[orphanBody], err error) {
	most := in.Most
	if only {
		most = mostSkipped
	}
	found, err := s.Tidy.Orphans(ctx, in.After, most)
	if err != nil {
		return b, err
	}
	var kept []tidy.Orphan
	last, read := in.After, len(found)
	for _, o := range found {
		if len(kept) == in.Most {
			read = most // there are more
			break
		}
		last = o.ID
		if !only || len(o.SpeaksFor()) == 0 {
			kept = append(kept, o)
		}
	}
	cards, err := cardsOf(ctx, s, kept, func(o tidy.Orphan) int64 { return o.ID })
	var finds []orphanBody
	for _, o := range kept {
		finds = append(finds, orphanBody{cards[o.ID], o.Why(), o.Run, o.SpeaksFor()})
	}
	return pageOfFinds(finds, last, read, most), err
}

func (s *Server) twice(ctx context.Context, in FindPage) (b findsBody[twiceBody], err error) {
	rows, err := s.Store.TwicePage(ctx, query.TwicePageParams{After: in.After, Most: int32(in.Most)})
	if err != nil {
		return b, err
	}
	cards, err := cardsOf(ctx, s, rows, func(r query.TwicePageRow) int64 { return r.AssetID })
	if err != nil {
		return b, err
	}
	why, err := s.Tidy.WhyBest(ctx, rows)
	if err != nil {
		return b, err
	}
	var finds []twiceBody
	groups, last := 0, in.After
	for _, r := range rows {
		if r.BestID != last {
			groups++
			last = r.BestID
			finds = append(finds, twiceBody{Best: r.BestID, Why: why[r.BestID], Copies: []copyBody{}})
		}
		g := &finds[len(finds)-1]
		best := r.AssetID == r.BestID
		g.Copies = append(g.Copies, copyBody{PictureCard: cards[r.AssetID], Best: best, Apart: r.Apart, TrueWidth: r.TrueWidth, TrueHeight: r.TrueHeight, Padded: r.Padded})
		if !best {
			g.Won += r.Bytes
		}
	}
	return pageOfFinds(finds, last, groups, in.Most), nil
}

func (s *Server) shared(ctx context.Context, in FindPage) (b findsBody[sharedBody], err error) {
	rows, err := s.Store.SharedPage(ctx, query.SharedPageParams{After: in.After, Most: int32(in.Most)})
	if err != nil {
		return b, err
	}
	cards, err := cardsOf(ctx, s, rows, func(r query.SharedPageRow) int64 { return r.AssetID })
	if err != nil {
		return b, err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.AssetID
	}
	places, err := s.Store.PlacesOf(ctx, query.PlacesOfParams{Ids: ids, Each: 20})
	titles, known := map[int64][]string{}, map[[2]int64]bool{}
	for _, p := range places {
		if key := [2]int64{p.AssetID, p.Product}; !known[key] {
			known[key] = true
			titles[p.AssetID] = append(titles[p.AssetID], p.ProductTitle)
		}
	}
	var finds []sharedBody
	last := in.After
	for _, r := range rows {
		last = r.AssetID
		finds = append(finds, sharedBody{cards[r.AssetID], core.JudgeShared(titles[r.AssetID]), titles[r.AssetID]})
	}
	return pageOfFinds(finds, last, len(rows), in.Most), err
}

// maskOf is names with commas between as bits; all where there is none.
func maskOf[T ~string](all []T, names string) (int32, error) {
	if names == "" {
		return 1<<len(all) - 1, nil
	}
	mask := 0
	for name := range strings.SplitSeq(names, ",") {
		bit := core.BitOf(all, T(name))
		if bit == 0 {
			return 0, tidy.ErrFinding
		}
		mask |= bit
	}
	return int32(mask), nil
}

func (s *Server) unfit(ctx context.Context, in FindPage, faults string, everywhere bool) (b findsBody[unfitPicture], err error) {
	mask, err := maskOf(core.Faults, faults)
	if err != nil {
		return b, err
	}
	l, err := s.Tidy.Limits(ctx)
	if err != nil {
		return b, err
	}
	rows, err := s.Store.UnfitPage(ctx, query.UnfitPageParams{After: in.After, Mask: mask, Everywhere: everywhere, Most: int32(in.Most)})
	if err != nil {
		return b, err
	}
	cards, err := cardsOf(ctx, s, rows, func(r query.UnfitPageRow) int64 { return r.AssetID })
	var finds []unfitPicture
	last := in.After
	for _, r := range rows {
		last = r.AssetID
		u := unfitPicture{cards[r.AssetID], []faultBody{}}
		for _, f := range tidy.FindingsOf(l, r) {
			u.Faults = append(u.Faults, faultBody{f.Fault, f.Figure})
		}
		finds = append(finds, u)
	}
	return pageOfFinds(finds, last, len(rows), in.Most), err
}

func (s *Server) gaps(ctx context.Context, in FindPage, gaps string, within int64) (b findsBody[gapBody], err error) {
	mask, err := maskOf(core.Gaps, gaps)
	if err != nil {
		return b, err
	}
	below, err := catalogue.Below(ctx, s.Store, within)
	if err != nil {
		return b, err
	}
	rows, err := s.Store.GapPage(ctx, query.GapPageParams{After: in.After, Mask: mask, Categories: below, Most: int32(in.Most)})
	var finds []gapBody
	last := in.After
	for _, r := range rows {
		last = r.OwnerID
		finds = append(finds, gapBody{Owner: r.OwnerID, Kind: r.Kind, SKU: r.Sku, Label: ownerLabel(r.Title, r.ParentTitle, r.Options), Product: r.Parent,
			Category: r.Category, Gaps: core.Named(core.Gaps, int(r.Gaps))})
	}
	return pageOfFinds(finds, last, len(rows), in.Most), err
}

func (s *Server) broken(ctx context.Context, in FindPage) (b findsBody[brokenBody], err error) {
	rows, err := s.Store.BrokenPage(ctx, query.BrokenPageParams{After: in.After, Most: int32(in.Most)})
	if err != nil {
		return b, err
	}
	cards, err := cardsOf(ctx, s, rows, func(r query.BrokenPageRow) int64 { return r.ID })
	var finds []brokenBody
	last := in.After
	for _, r := range rows {
		last = r.ID
		finds = append(finds, brokenBody{cards[r.ID], r.Broken})
	}
	return pageOfFinds(finds, last, len(rows), in.Most), err
}

// cardsOf are the cards of rows, by number.
func cardsOf[T any](ctx context.Context, s *Server, rows []T, id func(T) int64) (map[int64]PictureCard, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = id(r)
	}
	cards, err := s.cards(ctx, ids)
	of := make(map[int64]PictureCard, len(cards))
	for _, c := range cards {
		of[c.ID] = c
	}
	return of, err
}

// readBinPlace reads where a page of the bin begins: microseconds and a number.
func readBinPlace(after string) (at time.Time, id int64, err error) {
	if after == "" {
		return time.UnixMicro(0), 0, nil
	}
	micros, number, _ := strings.Cut(after, ".")
	m, errM := strconv.ParseInt(micros, 10, 64)
	id, errN := strconv.ParseInt(number, 10, 64)
	if errM != nil || errN != nil {
		return at, 0, huma.Error422UnprocessableEntity("after is no place in the bin")
	}
	return time.UnixMicro(m), id, nil
}
