package api

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"
	"unicode/utf8"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/core/pairing"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
)

type pairingBody struct {
	Delivery  *deliveryBody       `json:"delivery,omitempty" doc:"Where these are all lines."`
	Version   string              `json:"version" doc:"To be told only what changed since: ?since=…"`
	Catalogue int64               `json:"catalogue" doc:"How often the catalogue's owners had changed."`
	Whole     bool                `json:"whole" doc:"Whether these are all lines, or those that changed since the version asked for."`
	Total     int                 `json:"total" doc:"How many lines the delivery has."`
	Next      int                 `json:"next,omitempty" doc:"Where the next piece begins; none where this is the last."`
	Lines     []lineBody          `json:"lines"`
	Changes   []changedBody       `json:"changes" doc:"Where these are not all lines: what is said now of those that changed."`
	Whys      [][]message.Message `json:"whys" doc:"What is said of lines, which refer to it by number."`
	Owners    []ownerBody         `json:"owners" doc:"Every owner that these lines name; where owners changed, every one that the lines of the piece name."`
	Unfit     []unfitBody         `json:"unfit" doc:"Keys that say too little to pair by; the first five hundred, with the first piece."`
	UnfitAll  int                 `json:"unfitAll" doc:"How many there are."`
	Ladder    []CellBody          `json:"ladder" doc:"The cells by which it is paired; empty for every one."`
	Counts    countsBody          `json:"counts"`
	Habits    []habitBody         `json:"habits" doc:"What the delivery does as a whole."`
	Series    int                 `json:"series" doc:"How many series there are of pictures whose names say nothing."`
}

type countsBody struct {
	Of     map[string]int `json:"of" doc:"How many lines the delivery has of each grade and kind."`
	Ready  int            `json:"ready" doc:"How many have a picture and an owner."`
	ToRead int            `json:"toRead" doc:"How many of these nobody has read through."`
	Likely []groupBody    `json:"likely" doc:"Likely lines whose grade is lowered by the same, the largest group first; at most fifty."`
	Groups []groupBody    `json:"groups" doc:"Unclaimed lines that differ from a key in the same way, the largest group first; at most fifty."`
}

type readyBody struct {
	Version string `json:"version"`
	Lines   int    `json:"lines" doc:"Ready lines whose picture would come to an owner, or to another place there."`
	Owners  int    `json:"owners" doc:"Owners whose pictures would change."`
}

type orderBody struct {
	Owner    int64   `json:"owner" minimum:"1"`
	Arrivals []int64 `json:"arrivals" minItems:"1" maxItems:"10000" doc:"The lines in the order wanted."`
}

type undoneBody struct {
	Says  message.Message `json:"says" doc:"What the step was."`
	Lines int             `json:"lines" doc:"Lines that were changed."`
	Left  int             `json:"left" doc:"Lines that were left alone, as somebody decided later."`
	By    []string        `json:"by" doc:"Who that was."`
}

type groupBody struct {
	Differs message.Message `json:"differs"`
	Count   int             `json:"count"`
}

type habitBody struct {
	Kind  string          `json:"kind" enum:"prefix,suffix,numbers,folder,key"`
	Says  message.Message `json:"says"`
	Count int             `json:"count" doc:"Names that do it."`
	Of    int             `json:"of"`
	Off   bool            `json:"off" doc:"Whether it was switched off."`
}

type lineBody struct {
	ArrivalBody
	ClaimBody
}

type changedBody struct {
	ID int64 `json:"id"`
	ClaimBody
}

// ClaimBody is what is said of a line.
type ClaimBody struct {
	Grade      string        `json:"grade" enum:"sure,likely,contested,unclaimed,ignored"`
	Owner      int64         `json:"owner,omitempty"`
	Place      int           `json:"place,omitempty" doc:"1…n among this delivery's pictures for the owner."`
	Also       []shareBody   `json:"also,omitempty" doc:"Further owners that get the same picture."`
	Number     *int          `json:"number,omitempty"`
	Key        string        `json:"key,omitempty" doc:"The field that was met: sku, barcode, title or an attribute."`
	Fit        string        `json:"fit,omitempty"`
	Spans      [][2]int      `json:"spans,omitempty" doc:"Where the key stands in the path, or the keys where two contest it, in UTF-16 units, one behind the other."`
	KeySpan    *[2]int       `json:"keySpan,omitempty" doc:"What of the key was met, in UTF-16 units."`
	KeyText    string        `json:"keyText,omitempty" doc:"The key that was met, as the catalogue has it; where it is not the owner's SKU."`
	Why        int           `json:"w" doc:"Which of whys says why."`
	Doubt      int           `json:"d,omitempty" doc:"Which of whys, counted from one, says what lowers the grade; none where nothing does."`
	Candidates []readingBody `json:"candidates,omitempty"`
	Kinds      []string      `json:"kinds,omitempty" enum:"hand,aside,colour,alike,present,shared,number,seen,type,checked" doc:"What it is worth looking at for."`
	Said       string        `json:"said,omitempty" doc:"Who says so beside the name: a list, or a source."`
	Photo      string        `json:"photo,omitempty" doc:"The code in the photo that says so."`
	Slate      string        `json:"slate,omitempty" doc:"The picture whose code that is, where it is another's."`
	Person     string        `json:"person,omitempty" doc:"Who decided this line by hand."`
	Aside      bool          `json:"aside,omitempty"`
	Rank       int           `json:"rank,omitempty"`
	Colour     string        `json:"colour,omitempty" doc:"What the picture looks like, where that is not the variant's colour."`
	Alike      string        `json:"alike,omitempty" doc:"The picture of the owner that looks the same, by hash."`
}

type shareBody struct {
	Owner int64 `json:"owner"`
	Rank  int   `json:"rank,omitempty" minimum:"0" maximum:"1000000"`
	Place int   `json:"place,omitempty"`
}

type readingBody struct {
	Owner   int64            `json:"owner"`
	Key     string           `json:"key"`
	Fit     string           `json:"fit"`
	Number  *int             `json:"number,omitempty"`
	Said    string           `json:"said,omitempty" doc:"Who says so beside the name: a list, or a source."`
	Photo   string           `json:"photo,omitempty" doc:"The code in the photo that says so."`
	Differs *message.Message `json:"differs,omitempty" doc:"What differs between name and key."`
}

type ownerBody struct {
	ID      int64    `json:"id"`
	Kind    string   `json:"kind" enum:"product,variant,category"`
	SKU     string   `json:"sku"`
	Barcode string   `json:"barcode,omitempty"`
	Label   string   `json:"label"`
	Now     []string `json:"now" doc:"The pictures it has, by hash, in order."`
}

type CellBody struct {
	Key string `json:"key" minLength:"1" maxLength:"200" doc:"sku, barcode, title or an attribute."`
	Fit string `json:"fit" enum:"whole,within,part,folder,words,near"`
}

type countBody struct {
	CellBody
	Sure      int `json:"sure"`
	Likely    int `json:"likely"`
	Contested int `json:"contested"`
	Unclaimed int `json:"unclaimed"`
}

type trialBody struct {
	Cells  []countBody `json:"cells" doc:"What each key in each fit alone makes of the delivery."`
	Ladder []CellBody  `json:"ladder" doc:"The cells that together explain most with fewest contests, the first first."`
}

type unfitBody struct {
	Owner int64           `json:"owner"`
	Key   string          `json:"key"`
	Why   message.Message `json:"why"`
}

type ownerViewBody struct {
	Owner int64    `json:"owner"`
	Now   []string `json:"now" doc:"The pictures it has, by hash."`
	Then  []string `json:"then" doc:"Those it would have."`
}

type byOwnerBody struct {
	Version string          `json:"version"`
	Total   int             `json:"total" doc:"How many owners there are in all."`
	Next    int64           `json:"next,omitempty" doc:"The owner behind which the next piece begins; none where this is the last."`
	Views   []ownerViewBody `json:"views"`
}

// mostUnfit is how many keys unfit to pair by are listed; who has more has to look at the table they came from.
const mostUnfit = 500

// mostGroups likewise: the smaller ones are found line by line.
const mostGroups = 50

func (s *Server) pairingRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/pairing", "pair-delivery",
		"A piece of the delivery's lines, paired with the catalogue as it stands"),
		func(ctx context.Context, in *struct {
			ByID
			Since string `query:"since" maxLength:"100" doc:"A version; only the lines that changed since are given, where that is known."`
			From  int    `query:"from" minimum:"0" doc:"Give the lines from this one on, counted from 0; where the piece before says that the next begins."`
			Most  int    `query:"most" minimum:"1" maximum:"300" default:"250"`
		}) (*body[pairingBody], error) {
			news, err := s.Pairer.Since(ctx, in.ID, in.Since, in.From, in.Most)
			if err != nil {
				return nil, problem(err)
			}
			out, err := s.pairing(ctx, news)
			if err != nil {
				return nil, problem(err)
			}
			if news.Whole && in.From == 0 {
				d, err := s.delivery(ctx, in.ID)
				if err != nil {
					return nil, problem(err)
				}
				body := deliveryOf(d)
				out.Delivery = &body
			}
			return answer(out), nil
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/trial", "try-delivery",
		"The trial board: every key in every fit on the delivery"),
		func(ctx context.Context, in *ByID) (*body[trialBody], error) {
			board, err := s.Pairer.Trial(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			out := trialBody{Cells: []countBody{}, Ladder: cells(board.Ladder)}
			for _, c := range board.Cells {
				out.Cells = append(out.Cells, countBody{CellBody{string(c.Field), string(c.Fit)}, c.Sure, c.Likely, c.Contested, c.Unclaimed})
			}
			return answer(out), nil
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/owners", "view-by-owner",
		"What owners of the delivery would have under a house rule, in pieces; nothing is changed by it"),
		func(ctx context.Context, in *struct {
			ByID
			Rule  string `query:"rule" required:"true" enum:"only_where_empty,add_after,same_place,whole_set"`
			After int64  `query:"after" minimum:"0" doc:"Give the owners behind this one."`
			Most  int    `query:"most" minimum:"1" maximum:"500" default:"250"`
		}) (*body[byOwnerBody], error) {
			page, err := s.Pairer.ByOwner(ctx, in.ID, placement.Rule(in.Rule), in.After, in.Most)
			if err != nil {
				return nil, problem(err)
			}
			views, err := s.views(ctx, page.Views)
			return answer(byOwnerBody{Version: page.Version, Total: page.Total, Next: page.Next, Views: views}), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/deliveries/{id}/ready", "count-ready",
		"How many of the lines that are ready a house rule lets through"),
		func(ctx context.Context, in *struct {
			ByID
			Rule string `query:"rule" required:"true" enum:"only_where_empty,add_after,same_place,whole_set"`
		}) (*body[readyBody], error) {
			r, err := s.Pairer.Ready(ctx, in.ID, placement.Rule(in.Rule))
			return answer(readyBody(r)), problem(err)
		})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/deliveries/{id}/ladder", "set-ladder",
		"Choose the cells to pair a delivery by, none for every one, and the habits that don't count"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Cells []CellBody `json:"cells" maxItems:"200"`
				Off   []string   `json:"off" maxItems:"5" enum:"prefix,suffix,numbers,folder,key"`
			}
		}) (*struct{}, error) {
			var choice pairing.Choice
			for _, c := range in.Body.Cells {
				choice.Ladder = append(choice.Ladder, pairing.Cell{Field: pairing.Field(c.Key), Fit: pairing.Fit(c.Fit)})
			}
			for _, kind := range in.Body.Off {
				choice.Off = append(choice.Off, pairing.HabitKind(kind))
			}
			return nil, problem(s.Pairer.Choose(ctx, in.ID, choice))
		})
	decide := operation(people.Editor, http.MethodPut, "/api/deliveries/{id}/decisions", "decide", "Decide lines by hand; all of them or none")
	decide.MaxBodyBytes, decide.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, decide, func(ctx context.Context, in *struct {
		ByID
		Body []struct {
			Arrival int64       `json:"arrival"`
			Owner   int64       `json:"owner,omitempty" doc:"Who gets the picture; 0 keeps what the names say."`
			Also    []shareBody `json:"also,omitempty" maxItems:"1000" doc:"Further owners that get the same picture."`
			Aside   bool        `json:"aside,omitempty"`
			Rank    int         `json:"rank,omitempty" minimum:"0" maximum:"1000000" doc:"Order within the owner; 0 leaves it to the names."`
		} `minItems:"1" maxItems:"100000"`
	}) (*struct{}, error) {
		decisions := make([]pair.Decision, len(in.Body))
		for i, d := range in.Body {
			decisions[i] = pair.Decision{Arrival: d.Arrival, Aside: d.Aside, Rank: d.Rank}
			if d.Owner != 0 && !d.Aside {
				decisions[i].Owners = []pair.Share{{Owner: d.Owner, Rank: d.Rank}}
				for _, also := range d.Also {
					decisions[i].Owners = append(decisions[i].Owners, pair.Share{Owner: also.Owner, Rank: also.Rank})
				}
			}
		}
		return nil, problem(s.Pairer.Decide(ctx, in.ID, person(ctx).ID, decisions))
	})
	takeBack := operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/decisions/take-back", "take-back-decisions",
		"Forget what was decided of lines")
	takeBack.MaxBodyBytes, takeBack.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, takeBack, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Arrivals []int64 `json:"arrivals" minItems:"1" maxItems:"100000"`
		}
	}) (*struct{}, error) {
		return nil, problem(s.Pairer.TakeBack(ctx, in.ID, person(ctx).ID, in.Body.Arrivals))
	})
	check := operation(people.Editor, http.MethodPut, "/api/deliveries/{id}/checked", "check-lines",
		"Mark lines as read through and found right, with the owners they have, or take the mark off")
	check.MaxBodyBytes, check.BodyReadTimeout = bodyDecisions, time.Minute
	huma.Register(api, check, func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Arrivals []int64 `json:"arrivals" minItems:"1" maxItems:"100000"`
			Right    bool    `json:"right"`
		}
	}) (*struct{}, error) {
		return nil, problem(s.Pairer.Check(ctx, in.ID, person(ctx).ID, in.Body.Arrivals, in.Body.Right))
	})
	huma.Register(api, operation(people.Editor, http.MethodPut, "/api/deliveries/{id}/order", "order-lines",
		"Give the lines of owners an order"),
		func(ctx context.Context, in *struct {
			ByID
			Body []orderBody `minItems:"1" maxItems:"10000"`
		}) (*struct{}, error) {
			orders := make([]pair.Ordered, len(in.Body))
			for i, o := range in.Body {
				orders[i] = pair.Ordered(o)
			}
			return nil, problem(s.Pairer.Order(ctx, in.ID, person(ctx).ID, orders))
		})
	undo := func(again bool) func(context.Context, *ByID) (*body[undoneBody], error) {
		return func(ctx context.Context, in *ByID) (*body[undoneBody], error) {
			u, err := s.Pairer.Undo(ctx, in.ID, person(ctx).ID, again)
			return answer(undoneBody(u)), problem(err)
		}
	}
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/undo", "undo-step",
		"Undo the last thing that you decided in a delivery"), undo(false))
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/redo", "redo-step",
		"Do again what you undid last in a delivery"), undo(true))
	huma.Register(api, operation(people.Editor, http.MethodPost, "/api/deliveries/{id}/plans", "plan-delivery",
		"Make the plan of a delivery; nothing is changed by it"),
		func(ctx context.Context, in *struct {
			ByID
			Body struct {
				Rule string `json:"rule" enum:"only_where_empty,add_after,same_place,whole_set"`
			}
		}) (*body[idBody], error) {
			d, err := s.delivery(ctx, in.ID)
			if err != nil {
				return nil, problem(err)
			}
			id, err := s.Pairer.Plan(ctx, in.ID, person(ctx).ID, d.Title, placement.Rule(in.Body.Rule))
			return answer(idBody{id}), problem(err)
		})
}

// pairing returns all lines where that is the news, else those that changed, and every owner that may be called otherwise.
func (s *Server) pairing(ctx context.Context, p pair.News) (pairingBody, error) {
	out := pairingBody{Version: p.Version, Catalogue: p.Catalogue, Whole: p.Whole, Total: len(p.Lines), Next: p.Next, Lines: []lineBody{}, Changes: []changedBody{}, Whys: [][]message.Message{}, Unfit: []unfitBody{}, UnfitAll: len(p.Unfit), Series: len(p.Series),
		Ladder: cells(p.Choice.Ladder), Habits: []habitBody{}}
	seen := map[int64]bool{}
	var named []int64
	name := func(id int64) {
		if id != 0 && !seen[id] {
			seen[id] = true
			named = append(named, id)
		}
	}
	whys := map[string]int{}
	why := func(said ...message.Message) int {
		text := message.Texts(said)
		at, ok := whys[text]
		if !ok {
			at = len(out.Whys)
			whys[text] = at
			out.Whys = append(out.Whys, said)
		}
		return at
	}
	say := func(l *pair.Line) ClaimBody {
		c := said(l)
		c.Why = why(l.Claim.Why()...)
		if doubt := l.Claim.Lowered(); doubt.Code != "" && l.Person == "" {
			c.Doubt = 1 + why(doubt)
		}
		for _, share := range l.Shares {
			name(share.Owner)
		}
		for _, c := range l.Claim.Candidates {
			name(c.Owner)
		}
		return c
	}
	if p.Renamed {
		to := len(p.Lines)
		if p.Next > 0 {
			to = p.Next
		}
		for i := p.From; i < to; i++ {
			for _, share := range p.Lines[i].Shares {
				name(share.Owner)
			}
			for _, c := range p.Lines[i].Claim.Candidates {
				name(c.Owner)
			}
		}
	}
	if p.Whole {
		out.Lines = make([]lineBody, 0, len(p.Changed))
		for _, i := range p.Changed {
			out.Lines = append(out.Lines, lineBody{arrival(p.Lines[i].Arrival), say(&p.Lines[i])})
		}
		if p.From == 0 {
			for _, u := range p.Unfit[:min(len(p.Unfit), mostUnfit)] {
				out.Unfit = append(out.Unfit, unfitBody{u.Owner, u.Key.Text, message.New(u.Why)})
			}
		}
	} else {
		out.Changes = make([]changedBody, 0, len(p.Changed))
		for _, i := range p.Changed {
			out.Changes = append(out.Changes, changedBody{p.Lines[i].Arrival.ID, say(&p.Lines[i])})
		}
	}
	out.Counts = countsBody{Of: p.Counts.Of, Ready: p.Counts.Ready, ToRead: p.Counts.ToRead, Groups: groups(p.Counts.Groups),
		Likely: groups(p.Counts.Likely)}
	for _, h := range p.Habits {
		out.Habits = append(out.Habits, habitBody{Kind: string(h.Kind), Says: h.Says, Count: h.Count, Of: h.Of, Off: slices.Contains(p.Choice.Off, h.Kind)})
	}
	var err error
	if out.Owners, err = s.owners(ctx, named); err != nil {
		return out, err
	}
	sku := make(map[int64]string, len(out.Owners))
	for _, o := range out.Owners {
		sku[o.ID] = o.SKU
	}
	plain := func(c *ClaimBody) {
		if c.KeyText == sku[c.Owner] {
			c.KeyText = ""
		}
	}
	for i := range out.Lines {
		plain(&out.Lines[i].ClaimBody)
	}
	for i := range out.Changes {
		plain(&out.Changes[i].ClaimBody)
	}
	return out, nil
}

func groups(all []pair.Group) []groupBody {
	out := make([]groupBody, min(len(all), mostGroups))
	for i := range out {
		out[i] = groupBody(all[i])
	}
	return out
}

// views returns assets by their hashes, set-wise.
func (s *Server) views(ctx context.Context, views []pair.OwnerView) ([]ownerViewBody, error) {
	var ids []int64
	for _, v := range views {
		ids = append(append(ids, v.Now...), v.Then...)
	}
	rows, err := s.Store.AssetsByID(ctx, ids)
	if err != nil {
		return nil, err
	}
	sha := make(map[int64]string, len(rows))
	for _, r := range rows {
		sha[r.ID] = r.Sha
	}
	shas := func(assets []int64) []string {
		out := make([]string, len(assets))
		for i, a := range assets {
			out[i] = sha[a]
		}
		return out
	}
	out := make([]ownerViewBody, len(views))
	for i, v := range views {
		out[i] = ownerViewBody{v.Owner, shas(v.Now), shas(v.Then)}
	}
	return out, nil
}

func cells(ladder pairing.Ladder) []CellBody {
	out := make([]CellBody, len(ladder))
	for i, c := range ladder {
		out[i] = CellBody{string(c.Field), string(c.Fit)}
	}
	return out
}

// said is what is said of a line, but for why.
func said(l *pair.Line) ClaimBody {
	b := ClaimBody{Grade: string(l.Grade()), Owner: l.Owner(), Number: l.Number, Spans: utf16Spans(l.Arrival.Path, l.Pointed()...),
		Person: l.Person, Aside: l.Aside, Rank: l.Rank, Colour: l.Colour, Alike: l.Alike, Kinds: l.Kinds.Names()}
	for i, share := range l.Shares {
		if i == 0 {
			b.Place, b.Rank = share.Place, share.Rank
			continue
		}
		b.Also = append(b.Also, shareBody(share))
	}
	if r := l.Reading(); r != nil {
		keySpan := utf16Span(r.Key, r.KeySpan)
		b.Key, b.Fit, b.KeyText, b.KeySpan, b.Said, b.Photo, b.Slate = string(r.Field), string(r.Fit), r.Key, &keySpan, r.Said, r.Photo, r.Slate
	}
	for _, c := range l.Claim.Candidates {
		r := readingBody{Owner: c.Owner, Key: string(c.Field), Fit: string(c.Fit), Number: c.Number, Said: c.Said, Photo: c.Photo}
		if c.Differs.Code != "" {
			r.Differs = &c.Differs
		}
		b.Candidates = append(b.Candidates, r)
	}
	return b
}

// utf16Spans are where readings stand in a path, one behind the other, those that touch as one.
func utf16Spans(path string, readings ...pairing.Reading) [][2]int {
	spans := make([]names.Span, 0, len(readings))
	for _, r := range readings {
		if !r.NameSpan.Empty() {
			spans = append(spans, r.NameSpan)
		}
	}
	slices.SortFunc(spans, func(a, b names.Span) int { return cmp.Compare(a.Start, b.Start) })
	var out [][2]int
	for _, s := range spans {
		at := utf16Span(path, s)
		if n := len(out); n > 0 && at[0] <= out[n-1][1] {
			out[n-1][1] = max(out[n-1][1], at[1])
		} else {
			out = append(out, at)
		}
	}
	return out
}

// utf16Span counts as browsers do.
func utf16Span(text string, s names.Span) [2]int {
	return [2]int{utf16Len(text[:s.Start]), utf16Len(text[:s.End])}
}

func utf16Len(s string) int {
	n := 0
	for len(s) > 0 {
		r, size := utf8.DecodeRuneInString(s)
		n++
		if r > 0xffff {
			n++
		}
		s = s[size:]
	}
	return n
}

// owners labels owners and returns the pictures they have now, set-wise.
func (s *Server) owners(ctx context.Context, ids []int64) ([]ownerBody, error) {
	labels, err := catalogue.Labels(ctx, s.Store, ids)
	if err != nil {
		return nil, err
	}
	now, err := s.Store.PlacedShas(ctx, ids)
	if err != nil {
		return nil, err
	}
	pictures := map[int64][]string{}
	for _, p := range now {
		pictures[p.OwnerID] = append(pictures[p.OwnerID], p.Sha)
	}
	out := make([]ownerBody, 0, len(labels))
	for id, l := range labels {
		b := ownerBody{id, l.Kind, l.SKU, l.Barcode, l.Label, pictures[id]}
		if b.Now == nil {
			b.Now = []string{}
		}
		out = append(out, b)
	}
	return out, nil
}
