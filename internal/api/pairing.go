package api

import (
	"context"
	"net/http"
	"unicode/utf8"

	"ambrosa/core/change"
	"ambrosa/core/names"
	"ambrosa/core/pairing"
	"ambrosa/internal/bench"

	"github.com/danielgtaylor/huma/v2"
)

type pairingBody struct {
	Delivery deliveryBody `json:"delivery"`
	Lines    []lineBody   `json:"lines"`
	Owners   []ownerBody  `json:"owners" doc:"Every owner that a line names."`
	Unfit    []unfitBody  `json:"unfit" doc:"Keys that say too little to pair by."`
	Ladder   []cellBody   `json:"ladder" doc:"The cells by which it is paired; empty for every one."`
}

type lineBody struct {
	ArrivalBody
	Grade      string        `json:"grade" enum:"sure,likely,contested,unclaimed,ignored"`
	Owner      int64         `json:"owner,omitempty"`
	Place      int           `json:"place,omitempty" doc:"1…n among this delivery's pictures for the owner."`
	Number     *int          `json:"number,omitempty"`
	Key        string        `json:"key,omitempty" doc:"The field that was met: sku, barcode, title."`
	Fit        string        `json:"fit,omitempty"`
	Span       *[2]int       `json:"span,omitempty" doc:"Where the key stands in the path, in UTF-16 units."`
	KeySpan    *[2]int       `json:"keySpan,omitempty" doc:"What of the key was met, in UTF-16 units."`
	Why        string        `json:"why,omitempty"`
	Candidates []readingBody `json:"candidates,omitempty"`
	Person     string        `json:"person,omitempty" doc:"Who decided this line by hand."`
	Aside      bool          `json:"aside,omitempty"`
	Rank       int           `json:"rank,omitempty"`
}

type readingBody struct {
	Owner  int64  `json:"owner"`
	Fit    string `json:"fit"`
	Number *int   `json:"number,omitempty"`
}

type ownerBody struct {
	ID      int64    `json:"id"`
	Kind    string   `json:"kind" enum:"product,variant,category"`
	SKU     string   `json:"sku"`
	Barcode string   `json:"barcode,omitempty"`
	Label   string   `json:"label"`
	Now     []string `json:"now" doc:"The pictures it has, by hash, in order."`
}

type cellBody struct {
	Key string `json:"key" enum:"sku,barcode,title"`
	Fit string `json:"fit" enum:"whole,within,part,folder,words,near"`
}

type countBody struct {
	Key       string `json:"key" enum:"sku,barcode,title"`
	Fit       string `json:"fit" enum:"whole,within,part,folder,words,near"`
	Sure      int    `json:"sure"`
	Likely    int    `json:"likely"`
	Contested int    `json:"contested"`
	Unclaimed int    `json:"unclaimed"`
}

type trialBody struct {
	Cells  []countBody `json:"cells" doc:"What each key in each fit alone makes of the delivery."`
	Ladder []cellBody  `json:"ladder" doc:"The cells that together explain most with fewest contests, the first first."`
}

type unfitBody struct {
	Owner int64  `json:"owner"`
	Key   string `json:"key"`
	Why   string `json:"why"`
}

func (s *Server) pairingRoutes(api huma.API) {
	huma.Register(api, operation(http.MethodGet, "/api/deliveries/{id}/pairing", "pair-delivery", "The delivery's lines, paired with the catalogue as it stands"), func(ctx context.Context, in *ByID) (*body[pairingBody], error) {
		d, err := s.delivery(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		p, err := s.Bench.Pair(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		out := pairingBody{Delivery: deliveryBody(d), Lines: make([]lineBody, len(p.Lines)), Unfit: []unfitBody{}}
		var named []int64
		for i := range p.Lines {
			out.Lines[i] = line(&p.Lines[i])
			if p.Lines[i].Owner != 0 {
				named = append(named, p.Lines[i].Owner)
			}
			for _, c := range p.Lines[i].Claim.Candidates {
				named = append(named, c.Owner)
			}
		}
		for _, u := range p.Unfit {
			out.Unfit = append(out.Unfit, unfitBody{u.Owner, u.Key.Text, u.Why})
		}
		out.Ladder = cells(p.Ladder)
		out.Owners, err = s.owners(ctx, named)
		return answer(out), problem(err)
	})
	huma.Register(api, operation(http.MethodGet, "/api/deliveries/{id}/trial", "try-delivery", "The trial board: every key in every fit on the delivery"), func(ctx context.Context, in *ByID) (*body[trialBody], error) {
		p, err := s.Bench.Pair(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		board := p.Trial()
		out := trialBody{Cells: []countBody{}, Ladder: cells(board.Ladder)}
		for _, c := range board.Cells {
			out.Cells = append(out.Cells, countBody{string(c.Field), string(c.Fit), c.Sure, c.Likely, c.Contested, c.Unclaimed})
		}
		return answer(out), nil
	})
	huma.Register(api, operation(http.MethodPut, "/api/deliveries/{id}/ladder", "set-ladder", "Choose the cells to pair a delivery by; none for every one"), func(ctx context.Context, in *struct {
		ByID
		Body []cellBody
	}) (*struct{}, error) {
		var ladder pairing.Ladder
		for _, c := range in.Body {
			ladder = append(ladder, pairing.Cell{Field: pairing.Field(c.Key), Fit: pairing.Fit(c.Fit)})
		}
		return nil, problem(s.Bench.SetLadder(ctx, in.ID, ladder))
	})
	huma.Register(api, operation(http.MethodPut, "/api/deliveries/{id}/decisions", "decide", "Decide lines by hand; all of them or none"), func(ctx context.Context, in *struct {
		ByID
		Body []struct {
			Arrival int64 `json:"arrival"`
			Owner   int64 `json:"owner,omitempty" doc:"Who gets the picture; 0 keeps the engine's word."`
			Aside   bool  `json:"aside,omitempty"`
			Rank    int   `json:"rank,omitempty" minimum:"0" doc:"Order within the owner; 0 leaves it to the names."`
		} `minItems:"1" maxItems:"100000"`
	}) (*struct{}, error) {
		decisions := make([]bench.Decision, len(in.Body))
		for i, d := range in.Body {
			decisions[i] = bench.Decision{Arrival: d.Arrival, Owner: d.Owner, Aside: d.Aside, Rank: d.Rank}
		}
		return nil, problem(s.Bench.Decide(ctx, in.ID, person(ctx).ID, decisions))
	})
	huma.Register(api, operation(http.MethodPost, "/api/deliveries/{id}/decisions/take-back", "take-back-decisions", "Forget what was decided of lines"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Arrivals []int64 `json:"arrivals" minItems:"1" maxItems:"100000"`
		}
	}) (*struct{}, error) {
		return nil, problem(s.Bench.TakeBack(ctx, in.ID, in.Body.Arrivals))
	})
	huma.Register(api, operation(http.MethodPost, "/api/deliveries/{id}/plans", "plan-delivery", "Make the plan of a delivery; nothing is changed by it"), func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Rule string `json:"rule" enum:"only_where_empty,add_after,same_place,whole_set"`
		}
	}) (*body[idBody], error) {
		d, err := s.delivery(ctx, in.ID)
		if err != nil {
			return nil, problem(err)
		}
		id, err := s.Bench.Plan(ctx, in.ID, person(ctx).ID, d.Title, change.Rule(in.Body.Rule))
		return answer(idBody{id}), problem(err)
	})
}

func cells(ladder pairing.Ladder) []cellBody {
	out := make([]cellBody, len(ladder))
	for i, c := range ladder {
		out[i] = cellBody{string(c.Field), string(c.Fit)}
	}
	return out
}

func line(l *bench.Line) lineBody {
	b := lineBody{ArrivalBody: arrival(l.Arrival), Grade: string(l.Claim.Grade), Owner: l.Owner, Place: l.Place, Number: l.Number,
		Why: l.Claim.Why, Person: l.Person, Aside: l.Aside, Rank: l.Rank}
	if r := l.Claim.Reading; r != nil {
		b.Key, b.Fit = string(r.Field), string(r.Fit)
		b.Span, b.KeySpan = utf16Span(l.Arrival.Path, r.NameSpan), &[2]int{r.KeySpan.Start, r.KeySpan.End}
	}
	for _, c := range l.Claim.Candidates {
		b.Candidates = append(b.Candidates, readingBody{c.Owner, string(c.Fit), c.Number})
	}
	if l.Person != "" && !l.Aside && l.Owner != 0 {
		b.Grade = string(pairing.Sure)
		if r := l.Claim.Reading; r == nil || r.Owner != l.Owner {
			b.Span, b.KeySpan, b.Key, b.Fit = nil, nil, "", ""
		}
	}
	if len(l.Claim.Candidates) > 0 && b.Span == nil {
		b.Span = utf16Span(l.Arrival.Path, l.Claim.Candidates[0].NameSpan)
	}
	return b
}

// utf16Span counts as browsers do.
func utf16Span(text string, s names.Span) *[2]int {
	return &[2]int{utf16Len(text[:s.Start]), utf16Len(text[:s.End])}
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

// owners labels owners and gives the pictures they have now, set-wise.
func (s *Server) owners(ctx context.Context, ids []int64) ([]ownerBody, error) {
	labels, err := s.Bench.Labels(ctx, ids)
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
