package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/gallery"
	"ambrosa/core/likeness"
	"ambrosa/core/message"
	core "ambrosa/core/tidy"
	"ambrosa/internal/assets"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/danielgtaylor/huma/v2"
)

// PictureSearch says which pictures are meant.
type PictureSearch struct {
	Q      string `query:"q" maxLength:"200" doc:"Parts of a name, path, source, supplier, SKU, title, alt text, tag or note; all must be there."`
	Is     string `query:"is" maxLength:"400" doc:"Facets with commas between: of one group any will do, of several all must. See the answer's counts for their names."`
	Source int64  `query:"source" minimum:"0" doc:"Only those that came from this source first."`
	Like   string `query:"like" maxLength:"16" pattern:"^[0-9a-f]{16}$" doc:"Only those that look like this likeness."`
	Before int64  `query:"before" minimum:"0" doc:"Only those before this number: where the page before ended."`
}

type galleryBody struct {
	Pictures []PictureCard  `json:"pictures"`
	Count    int            `json:"count" doc:"How many are found; 10001 where there are more than 10000."`
	Facets   map[string]int `json:"facets" doc:"How many would be found with each facet in the place of the others of its group."`
	Groups   [][]string     `json:"groups" doc:"The facets by their groups."`
	Sources  []sourceCount  `json:"sources"`
}

type sourceCount struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Count int    `json:"count"`
}

// PictureCard is a picture as lists show it.
type PictureCard struct {
	ID          int64     `json:"id"`
	Sha         string    `json:"sha"`
	Name        string    `json:"name" doc:"Of the file that brought it first."`
	Path        string    `json:"path"`
	Source      string    `json:"source,omitempty"`
	Width       int32     `json:"width"`
	Height      int32     `json:"height"`
	Shape       string    `json:"shape" enum:"square,wide,tall"`
	Bytes       int64     `json:"bytes"`
	Format      string    `json:"format"`
	Colours     []string  `json:"colours" doc:"Its main colours, as #rrggbb."`
	May         string    `json:"may,omitempty" doc:"What it may be used for."`
	Places      int32     `json:"places" doc:"On how many owners it stands."`
	Owner       string    `json:"owner,omitempty" doc:"The first of them."`
	CameAt      time.Time `json:"cameAt"`
	Placeholder bool      `json:"placeholder,omitempty"`
	Binned      bool      `json:"binned,omitempty"`
	Tags        []string  `json:"tags"`
	Likeness    string    `json:"likeness,omitempty"`
}

// alikeWithin is in how many bits a picture may differ from another that it is asked to be like.
const alikeWithin = 8

func (s *Server) galleryRoutes(api huma.API) {
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/gallery", "find-pictures", "A page of all pictures, the newest first, with counts for the filters"),
		func(ctx context.Context, in *struct {
			PictureSearch
			Most int `query:"most" minimum:"1" maximum:"500" default:"200"`
		}) (*body[galleryBody], error) {
			b, err := s.gallery(ctx, in.PictureSearch, in.Most)
			return answer(b), problem(err)
		})
	huma.Register(api, operation(people.Viewer, http.MethodGet, "/api/pictures/{sha}", "get-picture-facts", "All that is known of a picture"),
		func(ctx context.Context, in *ByHash) (*body[pictureFacts], error) {
			b, err := s.pictureFacts(ctx, in.Sha)
			return answer(b), problem(err)
		})
	look := operation(people.Viewer, http.MethodPost, "/api/gallery/look", "look-at-picture", "Look at a picture that is sent, to find the same or like ones; nothing is kept")
	look.MaxBodyBytes, look.BodyReadTimeout = mostDropped, time.Minute
	huma.Register(api, look, func(ctx context.Context, in *struct{ RawBody []byte }) (*body[lookedBody], error) {
		b, err := s.lookAt(ctx, in.RawBody)
		return answer(b), problem(err)
	})
}

// mostDropped is how many bytes a picture may have that is looked for by dropping it.
const mostDropped = 64 << 20

type lookedBody struct {
	Likeness string           `json:"likeness,omitempty"`
	Same     string           `json:"same,omitempty" doc:"The hash of the picture that is here already in the same bytes."`
	Says     *message.Message `json:"says,omitempty" doc:"Why it can't be looked for."`
}

func (s *Server) lookAt(ctx context.Context, b []byte) (l lookedBody, err error) {
	sum := sha256.Sum256(b)
	f, err := assets.Look(ctx, assets.Source{Bytes: b}, s.Tidy.MaxPixels)
	if m, told := message.Of(err); told {
		l.Says = &m
		return l, nil
	}
	if err != nil {
		return l, err
	}
	l.Likeness = fmt.Sprintf("%016x", f.Likeness)
	if _, err := s.Store.AssetBySha(ctx, sum[:]); err == nil {
		l.Same = hex.EncodeToString(sum[:])
	}
	return l, nil
}

// query is a search as the shelf understands it.
func (in PictureSearch) query(most int) (find gallery.Query, err error) {
	find = gallery.Query{Words: strings.Fields(strings.ToLower(in.Q)), Source: in.Source, Before: in.Before, Most: most}
	var names []string
	if in.Is != "" {
		names = strings.Split(in.Is, ",")
	}
	masks, ok := gallery.Masks(names)
	if !ok {
		return find, huma.Error422UnprocessableEntity("there is a facet that there is not")
	}
	find.Facets = masks
	if !find.AsksForState() {
		find.Facets = append(find.Facets, gallery.Placed|gallery.Unplaced) // what lies in the bin is shown where it is asked for
	}
	if in.Like != "" {
		bits, err := strconv.ParseUint(in.Like, 16, 64)
		if err != nil {
			return find, huma.Error422UnprocessableEntity("like is no likeness")
		}
		find.Like = &gallery.Look{Likeness: bits, Within: alikeWithin}
	}
	return find, nil
}

func (s *Server) gallery(ctx context.Context, in PictureSearch, most int) (b galleryBody, err error) {
	find, err := in.query(most)
	if err != nil {
		return b, err
	}
	shelf, err := s.Gallery.Now(ctx)
	if err != nil {
		return b, err
	}
	found := shelf.Find(find)
	b = galleryBody{Count: found.Count, Facets: found.Facets, Groups: gallery.Names(), Sources: []sourceCount{}}
	if b.Pictures, err = s.cards(ctx, found.IDs); err != nil {
		return b, err
	}
	names, err := s.Store.SourceNames(ctx)
	for _, n := range names {
		if count := found.Sources[n.ID]; count > 0 {
			b.Sources = append(b.Sources, sourceCount{n.ID, n.Name, count})
		}
	}
	return b, err
}

// cards are pictures as lists show them, in the order asked.
func (s *Server) cards(ctx context.Context, ids []int64) ([]PictureCard, error) {
	rows, err := s.Store.PictureCards(ctx, ids)
	if err != nil {
		return nil, err
	}
	of := make(map[int64]PictureCard, len(rows))
	for _, r := range rows {
		c := PictureCard{ID: r.ID, Sha: r.Sha, Path: r.Path, Name: r.Path[strings.LastIndexByte(r.Path, '/')+1:], Source: r.Source, Width: r.Width, Height: r.Height,
			Shape: gallery.ShapeName(int(r.Width), int(r.Height)), Bytes: r.Bytes, Format: r.Format, Places: r.Places, Owner: r.Owner, CameAt: r.CreatedAt,
			Placeholder: r.Placeholder, Binned: r.Binned, Tags: append([]string{}, r.Tags...), Colours: []string{}, May: r.May}
		for _, swatch := range colour.Unpack(r.Palette) {
			if swatch.Share >= leastColour && len(c.Colours) < 3 {
				c.Colours = append(c.Colours, swatch.Lab.RGB().Hex())
			}
		}
		if r.Likeness != nil {
			c.Likeness = fmt.Sprintf("%016x", uint64(*r.Likeness))
		}
		of[r.ID] = c
	}
	cards := make([]PictureCard, 0, len(ids))
	for _, id := range ids {
		if c, there := of[id]; there {
			cards = append(cards, c)
		}
	}
	return cards, nil
}

// leastColour is the share of a picture from which on a colour is shown.
const leastColour = .08

type pictureFacts struct {
	PictureCard
	Note     string         `json:"note,omitempty"`
	Stands   []placeBody    `json:"stands" doc:"Where it stands, the first hundred."`
	Stood    []stoodBody    `json:"stood" doc:"Runs that put it on owners or took it off, the newest first; the last fifty."`
	Like     []PictureCard  `json:"like" doc:"Others that look like it, the first twelve."`
	Checked  bool           `json:"checked" doc:"Whether the checks have looked at it."`
	Trouble  string         `json:"trouble,omitempty" doc:"Why they could not."`
	True     [2]int32       `json:"trueSize" doc:"What it was made larger from; its own size where it was not."`
	Padding  [4]int32       `json:"padding" doc:"Left, top, right, bottom, in pixels."`
	Turned   int32          `json:"sideways"`
	Profile  *string        `json:"profile,omitempty"`
	Faults   []core.Fault   `json:"faults"`
	Metadata []metadataBody `json:"metadata"`
	Said     saidBody       `json:"said"`
}

type metadataBody struct {
	Group string `json:"group"`
	Name  string `json:"name"`
	Value string `json:"value"`
}

// saidBody is what the trade asks a picture's metadata for.
type saidBody struct {
	Creator     string `json:"creator,omitempty"`
	Copyright   string `json:"copyright,omitempty"`
	Credit      string `json:"credit,omitempty"`
	Description string `json:"description,omitempty"`
	Taken       string `json:"taken,omitempty"`
	Profile     string `json:"profile,omitempty"`
}

type placeBody struct {
	Owner    int64  `json:"owner"`
	Kind     string `json:"kind"`
	SKU      string `json:"sku"`
	Label    string `json:"label"`
	Position int32  `json:"position"`
}

type stoodBody struct {
	Run   int64     `json:"run"`
	Title string    `json:"title"`
	At    time.Time `json:"at"`
	Owner string    `json:"owner"`
	Came  bool      `json:"came" doc:"Whether the run put it there, or took it off."`
}

func (s *Server) pictureFacts(ctx context.Context, sha string) (b pictureFacts, err error) {
	raw, err := hex.DecodeString(sha)
	if err != nil {
		return b, errMissing
	}
	id, err := s.Store.AssetBySha(ctx, raw)
	if err != nil {
		return b, err
	}
	cards, err := s.cards(ctx, []int64{id})
	if err != nil || len(cards) == 0 {
		return b, errors.Join(err, errMissing)
	}
	b = pictureFacts{PictureCard: cards[0], Faults: []core.Fault{}}
	more, err := s.Store.PictureMore(ctx, id)
	if err != nil {
		return b, err
	}
	b.Note, b.Checked, b.Trouble, b.Profile, b.Turned = more.Note, more.Version > 0, more.Trouble, more.Profile, more.Sideways
	b.True, b.Padding = [2]int32{more.TrueWidth, more.TrueHeight}, [4]int32{more.PadLeft, more.PadTop, more.PadRight, more.PadBottom}
	if b.Faults, err = s.Tidy.FaultsOf(ctx, id); err != nil {
		return b, err
	}
	if b.Stands, err = s.stands(ctx, id); err != nil {
		return b, err
	}
	if b.Stood, err = s.stood(ctx, id); err != nil {
		return b, err
	}
	if b.Like, err = s.likeIt(ctx, b.PictureCard); err != nil {
		return b, err
	}
	return b, s.metadataOf(ctx, &b)
}

func (s *Server) stands(ctx context.Context, id int64) ([]placeBody, error) {
	rows, err := s.Store.PlacesOf(ctx, query.PlacesOfParams{Ids: []int64{id}, Each: 100})
	all := make([]placeBody, len(rows))
	for i, r := range rows {
		all[i] = placeBody{Owner: r.OwnerID, Kind: r.Kind, SKU: r.Sku, Label: ownerLabel(r.Title, r.ParentTitle, r.Options), Position: r.Position}
	}
	return all, err
}

func (s *Server) stood(ctx context.Context, id int64) ([]stoodBody, error) {
	rows, err := s.Store.StoodOn(ctx, query.StoodOnParams{ID: id, Most: 50})
	all := make([]stoodBody, len(rows))
	for i, r := range rows {
		all[i] = stoodBody{Run: r.Run, Title: r.Title, At: r.CreatedAt, Owner: r.Owner, Came: r.Came}
	}
	return all, err
}

// likeIt are other pictures that look like one.
func (s *Server) likeIt(ctx context.Context, of PictureCard) ([]PictureCard, error) {
	if of.Likeness == "" {
		return []PictureCard{}, nil
	}
	bits, err := strconv.ParseUint(of.Likeness, 16, 64)
	if err != nil {
		return nil, err
	}
	shelf, err := s.Gallery.Now(ctx)
	if err != nil {
		return nil, err
	}
	found := shelf.Find(gallery.Query{Like: &gallery.Look{Likeness: bits, Within: likeness.Same + 2}, Most: 13})
	others := found.IDs[:0]
	for _, id := range found.IDs {
		if id != of.ID && len(others) < 12 {
			others = append(others, id)
		}
	}
	return s.cards(ctx, others)
}

// mostRead is up to how many bytes of a picture are read for its metadata.
const mostRead = 64 << 20

func (s *Server) metadataOf(ctx context.Context, b *pictureFacts) error {
	b.Metadata = []metadataBody{}
	r, size, err := s.Vault.Open(ctx, assets.OriginalKey(b.Sha))
	if assets.IsMissing(err) || err == nil && size > mostRead {
		return nil
	}
	if err != nil {
		return err
	}
	defer r.Close()
	var buffer bytes.Buffer
	if _, err := buffer.ReadFrom(r); err != nil {
		return err
	}
	m := assets.ReadMetadata(assets.Source{Bytes: buffer.Bytes()})
	b.Said = saidBody{Creator: m.Creator, Copyright: m.Copyright, Credit: m.Credit, Description: m.Description, Taken: m.Taken, Profile: m.Profile}
	for _, t := range m.Tags {
		b.Metadata = append(b.Metadata, metadataBody(t))
	}
	return nil
}
