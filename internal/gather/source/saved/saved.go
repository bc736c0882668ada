// Package saved reads pages that people saved from their own browser and dropped among files: a page with its folder, or as one MHTML file. Of the
// pictures that came along it says which belong to the page's product, by the rules by which pages are read.
package saved

import (
	"context"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/page"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/listed"
	"ambrosa/internal/gather/source/upload"
	"ambrosa/internal/pages"
)

// Source is what was sent into one delivery, pages among it.
type Source struct {
	Sent   *upload.Source
	Reader *pages.Reader
	// Guide is how the pages of a host are read, where somebody said so.
	Guide func(ctx context.Context, address string) (page.Guide, bool)
}

var _ source.Source = (*Source)(nil)

// Check tells whether the bytes are there.
func (s *Source) Check(ctx context.Context) error { return s.Sent.Check(ctx) }

const (
	mostPage  = 20 << 20
	mostPages = 200
	mostMHTML = 256 << 20
)

// elsewhere stands for the host of a page that does not say where it was saved from.
const elsewhere = "http://saved.invalid/"

// note is what is said of a file that came along with a page.
type note struct {
	said    []source.Said
	problem *source.Problem
}

// extra is a picture that a page leads to and that is no file of its own.
type extra struct {
	path, address string
	said          []source.Said
	bytes         []byte // of a part of MHTML; nil where it is fetched
}

// read is a page that was read.
type read struct {
	kept   int
	extras []extra
}

// Walk shows what was sent, with what its pages say of it. Memory grows with the pages.
func (s *Source) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	notes, of, err := s.read(ctx)
	if err != nil {
		return err
	}
	return s.Sent.Walk(ctx, from, tell, func(it source.Item) error {
		if n, ok := notes[it.Path]; ok {
			it.Said = append(it.Said, n.said...)
			if it.Problem == nil {
				it.Problem = n.problem
			}
		}
		page, ok := of[it.Path]
		if ok {
			it.Problem = source.NewProblem(source.NotPicture, "page_beside", "count", page.kept)
		}
		if err := visit(it); err != nil || !ok {
			return err
		}
		for i, e := range page.extras {
			if err := visit(s.item(it, i, e)); err != nil {
				return err
			}
		}
		return nil
	})
}

// item is a picture that a page leads to.
func (s *Source) item(of source.Item, i int, e extra) source.Item {
	it := source.Item{ID: of.ID + "/" + strconv.Itoa(i+1), Path: e.path, Bytes: -1, Said: e.said, Next: of.Next}
	it.From = []byte(fmt.Sprintf(`{"address":%q}`, e.address))
	it.Open = func(ctx context.Context) (io.ReadCloser, error) {
		if e.bytes != nil {
			return io.NopCloser(strings.NewReader(string(e.bytes))), nil
		}
		answer, err := listed.Ask(ctx, s.Reader.Fetch, fetch.Request{URL: e.address, Bytes: s.Sent.Limits.EntryBytes})
		if err != nil {
			return nil, err
		}
		return answer.Body, nil
	}
	return it
}

// IsPage reports whether a file's name is one of a saved page.
func IsPage(name string) bool {
	return slices.Contains([]string{".html", ".htm", ".xhtml", ".mhtml", ".mht"}, strings.ToLower(path.Ext(name)))
}

// read reads the pages that were sent.
func (s *Source) read(ctx context.Context) (map[string]note, map[string]read, error) {
	uploads, err := s.Sent.Store.Uploads(ctx, s.Sent.Delivery)
	if err != nil {
		return nil, nil, err
	}
	notes, of := map[string]note{}, map[string]read{}
	files := map[string]string{} // where the bytes of a path lie
	for _, u := range uploads {
		files[u.Path] = filepath.Join(s.Sent.Folder, u.ID)
	}
	for _, u := range uploads {
		if !IsPage(u.Path) || len(of) >= mostPages {
			continue
		}
		found, err := s.open(u.Path, files)
		if err != nil {
			continue // it is shown as the file that it is
		}
		of[u.Path], err = s.judge(ctx, found, notes)
		if err != nil {
			return nil, nil, err
		}
	}
	return notes, of, nil
}

// opened is a saved page with what lies beside it: head gives the first bytes of what an address of the page is, ok where it came along.
type opened struct {
	page  *page.Page
	path  string // by which it was sent
	local func(address string) (file string, b []byte, ok bool)
}

// open opens a page. An error where it is none.
func (s *Source) open(name string, files map[string]string) (opened, error) {
	if ext := strings.ToLower(path.Ext(name)); ext == ".mhtml" || ext == ".mht" {
		return openMHTML(name, files[name])
	}
	f, err := os.Open(files[name])
	if err != nil {
		return opened{}, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, mostPage))
	if err != nil {
		return opened{}, err
	}
	p, err := page.Parse(b, "", elsewhere+name)
	if err != nil {
		return opened{}, err
	}
	return opened{page: p, path: name, local: func(address string) (string, []byte, bool) {
		beside, ok := strings.CutPrefix(address, elsewhere)
		if !ok {
			return "", nil, false
		}
		beside, at := unescaped(beside), ""
		if at, ok = files[beside]; !ok {
			return "", nil, false
		}
		return beside, headOf(at), true
	}}, nil
}

func headOf(file string) []byte {
	f, err := os.Open(file)
	if err != nil {
		return nil
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, 512<<10))
	if err != nil {
		return nil
	}
	return b
}

// judge decides which pictures belong to a page's product, and notes it beside the files that came along.
func (s *Source) judge(ctx context.Context, o opened, notes map[string]note) (read, error) {
	from := o.page.SavedFrom()
	guide, ok := page.Guide{}, false
	if from != "" && s.Guide != nil {
		guide, ok = s.Guide(ctx, from)
	}
	if !ok {
		guide = page.Guide{}
	}
	it, err := s.Reader.Read(ctx, guide, o.page, pages.How{Here: o.here, Pause: guide.Limits.Rest()})
	if err != nil {
		return read{}, err
	}
	out := read{}
	by := from
	if by == "" {
		by = o.path
	}
	for _, c := range it.Pictures {
		for _, candidate := range c.Candidates { // what came along and is not taken is said to be left out
			if file, _, here := o.local(candidate.Address); here && file != "" {
				if _, said := notes[file]; !said && (!c.Kept || candidate.Address != c.Taken.Address) {
					notes[file] = note{problem: &source.Problem{Fault: source.LeftOut, Says: whyLeft(c)}}
				}
			}
		}
		if !c.Kept {
			continue
		}
		out.kept++
		said := []source.Said{}
		for _, f := range []source.Said{{Field: "sku", Text: it.SKU}, {Field: "barcode", Text: it.Barcode}, {Field: "title", Text: it.Title}, {Field: "number", Text: strconv.Itoa(c.Order)}} {
			if f.By = by; f.Text != "" {
				said = append(said, f)
			}
		}
		file, b, here := o.local(c.Taken.Address)
		switch {
		case here && file != "":
			notes[file] = note{said: said}
		case here:
			out.extras = append(out.extras, extra{path: listed.PathOf(c.Taken.Address), address: c.Taken.Address, said: said, bytes: b})
		default:
			out.extras = append(out.extras, extra{path: listed.PathOf(c.Taken.Address), address: c.Taken.Address, said: said})
		}
	}
	return out, nil
}

func whyLeft(c page.Chosen) message.Message {
	if c.Says.Code != "" {
		return c.Says
	}
	return message.New("left_smaller", "address", c.Taken.Address)
}

// here tells what is known of a picture that came along. What would lie beside the page and did not come is not there.
func (o opened) here(address string) (page.Seen, bool) {
	_, b, came := o.local(address)
	if came {
		return pages.SeenIn(b), true
	}
	return page.Seen{Failed: page.Unreached}, strings.HasPrefix(address, elsewhere)
}
