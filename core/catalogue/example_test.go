package catalogue_test

import (
	"fmt"

	"ambrosa/core/catalogue"
)

func ExampleRead() {
	rows, problems, err := catalogue.Read("SKU;Title;Colour\nPK-100;Parka;red\n;Cap;blue\n")
	for _, r := range rows {
		fmt.Println(r.Line, r.SKU, r.Title, r.Options)
	}
	for _, p := range problems {
		fmt.Println(p.Line, p.Text())
	}
	fmt.Println(err)
	// Output:
	// 2 PK-100 Parka map[colour:red]
	// 3 The row has no SKU.
	// <nil>
}

func ExamplePlan() {
	next := int64(0)
	standing := []catalogue.Owner{{ID: 5, Kind: catalogue.Product, SKU: "PK-100", Title: "Parka"}}
	rows, _, _ := catalogue.Read("sku,title\nPK-100,Parka long\nTR-7,Trousers\n")
	changes, _ := catalogue.Plan(standing, rows, 0, func() int64 { next++; return next + 100 })
	for _, c := range changes {
		was := "new"
		if c.Before != nil {
			was = c.Before.Title
		}
		fmt.Printf("%d: %s → %s\n", c.ID, was, c.After.Title)
	}
	// Output:
	// 5: Parka → Parka long
	// 101: new → Trousers
}

func ExampleLabel() {
	label := catalogue.Label("", "Parka", map[string]string{"colour": "red"})
	fmt.Println(label)
	fmt.Println(catalogue.Alt(label, "back"))
	// Output:
	// Parka, red
	// Parka, red, back
}
