package demo

import (
	"context"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/wording"
	"ambrosa/internal/hand"
	"ambrosa/internal/program"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
	texts "ambrosa/internal/wording"
)

// rules are those of the house in the demo: two languages, captions and file names.
var rules = []texts.Rule{
	{Kind: catalogue.Variant, Language: "en", Field: wording.Alt, Pattern: "{product.title} in {variant.colour}[, {role}][, picture {number}]"},
	{Language: "de", Field: wording.Alt, Pattern: "{label}[, {role}]"},
	{Language: "en", Field: wording.Caption, Pattern: "{product.title|{category.title}}[, {variant.colour}]"},
	{Language: "en", Field: wording.FileName, Pattern: "{product.title|{category.title}} {variant.colour} {number}"},
}

// german are words of titles in German.
var german = strings.NewReplacer("Delta", "Deltadrachen", "Diamond", "Rautendrachen", "Box", "Kastendrachen", "Sled", "Schlittendrachen",
	"Parafoil", "Parafoil-Drachen", "Line", "Schnur", "Reel", "Rolle", "Tail", "Schwanz")

// byHand leaves work that is done by hand: rules for texts, German titles, two categories of one name, and a variant that shows the
// picture of another.
func byHand(ctx context.Context, s *program.Program, person int64) error {
	kept, err := s.Wording.Rules(ctx, 0, 2)
	if err != nil {
		return err
	}
	if len(kept) > 1 {
		return nil
	}
	edits, err := germanTitles(ctx, s)
	if err != nil {
		return err
	}
	for i, top := range []string{"Kites", "Reels"} {
		above, err := s.Hand.Find(ctx, hand.Search{Kind: catalogue.Category, Text: top})
		if err != nil {
			return err
		}
		title, parent := "Spare parts", above[0]
		edits = append(edits, hand.Edit{Owner: int64(-1 - i), Kind: catalogue.Category, Fields: &hand.Fields{Title: &title, Parent: &parent}})
	}
	wrong, err := wrongPicture(ctx, s)
	if err != nil {
		return err
	}
	plan, refused, err := s.Hand.Plan(ctx, person, append(edits, wrong...))
	if err != nil || len(refused) > 0 {
		return err
	}
	if err := apply(ctx, s, plan, person); err != nil {
		return err
	}
	for _, r := range rules {
		if _, err := s.Wording.Save(ctx, person, r); err != nil {
			return err
		}
	}
	return nil
}

func germanTitles(ctx context.Context, s *program.Program) (edits []hand.Edit, err error) {
	products, err := s.Hand.Find(ctx, hand.Search{Kind: catalogue.Product})
	if err != nil {
		return nil, err
	}
	rows, err := s.Store.OwnerRecords(ctx, products)
	for _, o := range rows {
		edits = append(edits, hand.Edit{Owner: o.ID, Fields: &hand.Fields{Titles: map[string]string{"de": german.Replace(o.Title)}}})
	}
	return edits, err
}

// wrongPicture puts a picture of a teal kite before those of a dark one.
func wrongPicture(ctx context.Context, s *program.Program) ([]hand.Edit, error) {
	rows, err := s.Store.OwnersTouched(ctx, query.OwnersTouchedParams{Identities: []string{catalogue.Identity("PK-DLT-210-NGT"), catalogue.Identity("PK-DLT-210-TEA")}, Barcodes: []string{}})
	if err != nil {
		return nil, err
	}
	of := map[string]int64{}
	var ids []int64
	for _, o := range rows {
		of[o.Sku] = o.ID
		ids = append(ids, o.ID)
	}
	placed, err := pictures.Placed(ctx, s.Store.Queries, ids)
	if err != nil {
		return nil, err
	}
	dark, teal := placed[of["PK-DLT-210-NGT"]], placed[of["PK-DLT-210-TEA"]]
	if len(dark) == 0 || len(teal) == 0 {
		return nil, nil
	}
	was := make([]int64, len(dark))
	for i, p := range dark {
		was[i] = p.Asset
	}
	return []hand.Edit{{Owner: of["PK-DLT-210-NGT"], Pictures: &hand.Pictures{Was: was, Now: slices.Insert(slices.Clone(was), 0, teal[0].Asset)}}}, nil
}
