package sources

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"

	"ambrosa/core/gtin"
	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"github.com/theory/jsonpath"
)

// Service says how a barcode service is asked, and where in its answers the pictures stand.
type Service struct {
	Address    string `json:"address" maxLength:"2000" doc:"With {gtin} where the barcode stands."`
	Header     string `json:"header,omitempty" maxLength:"100" doc:"The header that carries the key, which is kept as a secret."`
	Pictures   string `json:"pictures" maxLength:"500" doc:"Where in the JSON answer the addresses of pictures stand: a path as RFC 9535 has it."`
	Title      string `json:"title,omitempty" maxLength:"500"`
	Licence    string `json:"licence,omitempty" maxLength:"500"`
	ADay       int    `json:"aDay,omitempty" minimum:"0" maximum:"10000000" doc:"How many may be asked for a day; 0 for any number."`
	HouseCodes bool   `json:"houseCodes,omitempty" doc:"Ask for house codes, too."`
}

const placeOfCode = "{gtin}"

// check returns ErrSettings with what is wrong, nil where nothing is.
func (s *Service) check() error {
	if s == nil {
		return fmt.Errorf("%w: say at which address the service is asked", ErrSettings)
	}
	if !page.IsWebAddress(strings.ReplaceAll(s.Address, placeOfCode, "1")) || !strings.Contains(s.Address, placeOfCode) {
		return fmt.Errorf("%w: the address begins with http:// or https:// and has %s where the barcode stands", ErrSettings, placeOfCode)
	}
	if strings.ContainsAny(s.Header, " :\r\n") || s.ADay < 0 {
		return fmt.Errorf("%w: a header's name has no blank and no colon", ErrSettings)
	}
	for _, path := range []string{s.Pictures, s.Title, s.Licence} {
		if path == "" && s.Pictures != "" {
			continue
		}
		if _, err := jsonpath.Parse(path); err != nil {
			return fmt.Errorf("%w: %q is no path in JSON; one begins with $", ErrSettings, path)
		}
	}
	return nil
}

// Ahead is what a run of a lookup would ask for, before it does.
type Ahead struct {
	Ask      int // that will be asked
	Known    int // of which the answer is known, and has pictures
	Nothing  int // of which the service had nothing within 30 days
	None     int // owners without a barcode
	Wrong    int // with a wrong one, or a house code that the service does not take
	Today    int // asked today already
	ADay     int // that may be asked a day; 0 for any number
	wanted   []query.AddLookupAsksParams
	distinct map[string]bool
}

// LookAhead tells what a run would ask for: all products and variants without a picture that have a barcode.
func (s *Sources) LookAhead(ctx context.Context, id int64) (a Ahead, err error) {
	of, err := s.Store.SourceByID(ctx, id)
	if err == nil && (of.RemovedAt != nil || of.Kind != string(Lookup)) {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return a, err
	}
	return s.ahead(ctx, s.Store.Queries, of)
}

// ahead goes through the owners without a picture. Cost: by their number, a portion at a time.
func (s *Sources) ahead(ctx context.Context, q *query.Queries, of query.Source) (a Ahead, err error) {
	set, err := settingsOf(of)
	if err != nil {
		return a, err
	}
	a.ADay, a.distinct = set.Lookup.ADay, map[string]bool{}
	today, err := q.AskedToday(ctx, of.ID)
	if err != nil {
		return a, err
	}
	a.Today = int(today)
	for after := int64(0); ; {
		rows, err := q.LookupCandidates(ctx, query.LookupCandidatesParams{Source: of.ID, After: after, Most: portion})
		if err != nil || len(rows) == 0 {
			return a, err
		}
		for _, r := range rows {
			after = r.ID
			a.add(r, set.Lookup.HouseCodes)
		}
	}
}

func (a *Ahead) add(r query.LookupCandidatesRow, houseCodes bool) {
	code := strings.TrimSpace(r.Barcode)
	_, wrong := gtin.Parse(code)
	ask := query.AddLookupAsksParams{OwnerID: r.ID, Barcode: code, State: "waiting"}
	switch {
	case code == "":
		a.None++
		return
	case wrong != nil && !houseCodes:
		a.Wrong++
		return
	case a.distinct[code]:
		return
	case r.Answered && r.Pictures == 0:
		a.Nothing++
		return
	case r.Answered:
		a.Known++
		ask.State = "found"
	default:
		a.Ask++
	}
	a.distinct[code] = true
	ask.N = int32(len(a.wanted) + 1)
	a.wanted = append(a.wanted, ask)
}

// LookUp asks for a run of a lookup and returns its delivery. ErrBusy; pgx.ErrNoRows where nothing is to be asked.
func (s *Sources) LookUp(ctx context.Context, person, id int64) (delivery int64, err error) {
	err = s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		of, err := q.LockSource(ctx, id)
		if err != nil {
			return err
		}
		if of.Kind != string(Lookup) {
			return ErrNotCollected
		}
		source, err := q.SourceByID(ctx, id)
		if err != nil {
			return err
		}
		a, err := s.ahead(ctx, q, source)
		if err != nil {
			return err
		}
		if len(a.wanted) == 0 {
			return ErrNothingToAsk
		}
		delivery, err = s.collectIn(ctx, q, tx, person, id, nil, Wish{asks: a.wanted})
		return err
	})
	return delivery, err
}

const (
	mostAnswer  = 1 << 20 // bytes of a service's answer
	mostPhotos  = 20      // pictures of one answer
	secretOfKey = "key"
)

// errDay is that a service takes no more today.
var errDay = errors.New("the service takes no more today")

// lookUp asks a service for the barcodes of a visit that are not asked for yet, one after the other.
func (v *visiting) lookUp(ctx context.Context, of query.Source, set Settings, tell func(source.Progress) error) error {
	secrets, err := v.secrets(of)
	if err != nil {
		return err
	}
	today, err := v.Store.AskedToday(ctx, of.ID)
	if err != nil {
		return err
	}
	for after := int32(0); ; {
		rows, err := v.Store.LookupWaiting(ctx, query.LookupWaitingParams{DeliveryID: v.delivery, After: after, Most: portion})
		if err != nil || len(rows) == 0 {
			return err
		}
		for _, r := range rows {
			after = r.N
			if set.Lookup.ADay > 0 && int(today) >= set.Lookup.ADay {
				return nil // those that are left are told of; another run asks for them
			}
			today++
			err := v.askOne(ctx, of, set.Lookup, secrets[secretOfKey], r)
			switch {
			case errors.Is(err, errDay):
				return nil
			case err != nil:
				return err
			}
			if err := tell(source.Progress{}); err != nil {
				return err
			}
		}
	}
}

// askOne asks for one barcode and keeps the answer. errDay where the service takes no more today; a *source.Trouble where it refuses the key.
func (v *visiting) askOne(ctx context.Context, of query.Source, s *Service, key string, r query.LookupWaitingRow) error {
	ask := fetch.Request{URL: strings.ReplaceAll(s.Address, placeOfCode, url.PathEscape(r.Barcode)), Bytes: mostAnswer, Header: http.Header{"Accept": {"application/json"}}}
	if s.Header != "" && key != "" {
		ask.Header.Set(s.Header, key)
	}
	answer, err := v.Fetch.Get(ctx, ask)
	var b []byte
	if err == nil {
		b, err = io.ReadAll(answer.Body)
		answer.Body.Close()
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	state, says := "", message.Message{}
	kept := query.KeepAnswerParams{SourceID: of.ID, Barcode: r.Barcode, Pictures: json.RawMessage("[]")}
	var status *fetch.StatusError
	switch {
	case errors.As(err, &status) && (status.Status == http.StatusUnauthorized || status.Status == http.StatusForbidden):
		return &source.Trouble{Says: message.New("lookup_sign_in", "source", of.Name), Final: true, Of: err}
	case errors.As(err, &status) && status.Status == http.StatusTooManyRequests:
		return errDay
	case errors.As(err, &status) && (status.Status == http.StatusNotFound || status.Status == http.StatusGone):
		state = "none"
	case errors.As(err, &status):
		state, says = "failed", message.New("lookup_failed", "gtin", r.Barcode, "status", status.Line)
	case err != nil:
		state, says = "failed", message.New("fetch_failed", "address", s.Address)
	default:
		state, says, err = s.read(b, r.Barcode, &kept)
		if err != nil {
			return err
		}
	}
	set := query.SetLookupAskParams{DeliveryID: v.delivery, N: r.N, State: state}
	if says.Code != "" {
		if set.Message, err = json.Marshal(says); err != nil {
			return err
		}
	}
	return v.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		if state != "failed" { // of a failure nothing is remembered
			if err := q.KeepAnswer(ctx, kept); err != nil {
				return err
			}
		}
		return q.SetLookupAsk(ctx, set)
	})
}

// read takes the pictures, title and licence out of an answer.
func (s *Service) read(b []byte, code string, kept *query.KeepAnswerParams) (state string, says message.Message, err error) {
	var v any
	if json.Unmarshal(b, &v) != nil {
		return "failed", message.New("lookup_no_json", "gtin", code), nil
	}
	pictures := []string{}
	for _, text := range texts(s.Pictures, v) {
		if page.IsWebAddress(text) && len(text) < 4096 && len(pictures) < mostPhotos {
			pictures = append(pictures, text)
		}
	}
	for path, into := range map[string]*string{s.Title: &kept.Title, s.Licence: &kept.Licence} {
		if found := texts(path, v); len(found) > 0 {
			*into = plain(found[0][:min(len(found[0]), 1000)])
		}
	}
	if kept.Pictures, err = json.Marshal(pictures); err != nil || len(pictures) == 0 {
		return "none", says, err
	}
	return "found", says, nil
}

// texts are the texts at a path of a JSON value; none where there is no path.
func texts(path string, v any) (found []string) {
	p, err := jsonpath.Parse(path)
	if path == "" || err != nil {
		return nil
	}
	for _, one := range p.Select(v) {
		if text, ok := one.(string); ok && text != "" {
			found = append(found, text)
		}
	}
	return found
}

// lookedUp are the pictures that a service named for what a visit asked. What it says is worth a look.
func (s *Sources) lookedUp(of query.Source, delivery int64) *pointed {
	said := map[string]saidOf{}
	p := &pointed{Sources: s, says: func(ctx context.Context, files []string) (map[string]saidOf, error) {
		if len(said) > 0 {
			return said, nil
		}
		return said, s.each(ctx, delivery, func(r query.LookupFoundRow) error { // after a restart the listing is known, and what is said is not
			said[fileOf(r)] = saidBy(of, r)
			return nil
		})
	}}
	p.kept = func(ctx context.Context, found func(listed) error) error {
		return s.each(ctx, delivery, func(r query.LookupFoundRow) error {
			said[fileOf(r)] = saidBy(of, r)
			return found(listed{id: fileOf(r), path: r.Address, bytes: -1})
		})
	}
	return p
}

func fileOf(r query.LookupFoundRow) string { return itemOf(r.Barcode + "\n" + r.Address) }

func saidBy(of query.Source, r query.LookupFoundRow) saidOf {
	s := saidOf{licence: r.Licence, said: []source.Said{{Field: "barcode", Text: r.Barcode, By: of.Name, Weak: true}}}
	if r.Title != "" {
		s.said = append(s.said, source.Said{Field: "title", Text: r.Title, By: of.Name, Weak: true})
	}
	return s
}

// each tells the pictures that a service named, in the order of what was asked.
func (s *Sources) each(ctx context.Context, delivery int64, tell func(query.LookupFoundRow) error) error {
	counts, err := s.Store.LookupCounts(ctx, delivery)
	if err != nil {
		return err
	}
	for after := int32(0); after < counts.All; after += portion {
		rows, err := s.Store.LookupFound(ctx, query.LookupFoundParams{DeliveryID: delivery, After: after, Until: after + portion})
		if err != nil {
			return err
		}
		for _, r := range rows {
			if err := tell(r); err != nil {
				return err
			}
		}
	}
	return nil
}
