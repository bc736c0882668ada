package catalogue_test

import (
	"fmt"
	"testing"

	"ambrosa/core/catalogue"
)

// A category's code is its own: a table that gives it to another says so, and the category keeps what it had.
func TestCodesOfCategories(t *testing.T) {
	row := func(line int, title, code string) catalogue.Row {
		return catalogue.Row{Line: line, Kind: catalogue.Category, Category: []string{title}, Title: title, Code: code, Given: catalogue.GivenCode}
	}
	standing := []catalogue.Owner{{ID: 1, Kind: catalogue.Category, Title: "Kites", Code: "c1"}}
	next := int64(100)
	edits, problems := catalogue.Plan(standing, []catalogue.Row{row(2, "Reels", "C1"), row(3, "Tails", "c3"), row(4, "Lines", "c3"), row(5, "Kites", "c1")}, 1,
		func() int64 { next++; return next })
	var codes, told []string
	for _, e := range edits {
		codes = append(codes, e.After.Title+" "+e.After.Code)
	}
	for _, p := range problems {
		told = append(told, fmt.Sprint(p.Line, " ", p.Text()))
	}
	if got, want := fmt.Sprint(codes), "[Reels  Tails c3 Lines ]"; got != want {
		t.Errorf("codes are %s, want %s", got, want)
	}
	if got, want := fmt.Sprint(told), "[2 Code C1 belongs to the category Kites. 4 Code c3 belongs to the category Tails.]"; got != want {
		t.Errorf("told is %s, want %s", got, want)
	}
}

// Siblings change places with each other, and those that had one place are made apart.
func ExampleInOrder() {
	for _, e := range catalogue.InOrder([]catalogue.Owner{{ID: 3, Ordinal: 9}, {ID: 1, Ordinal: 4}, {ID: 2, Ordinal: 9}}) {
		fmt.Println(e.ID, e.Before.Ordinal, "→", e.After.Ordinal)
	}
	// Output:
	// 3 9 → 4
	// 1 4 → 9
	// 2 9 → 10
}
