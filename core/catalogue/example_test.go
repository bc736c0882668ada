package catalogue_test

import (
	"fmt"

	"ambrosa/core/catalogue"
)

func ExamplePlan() {
	next := int64(0)
	standing := []catalogue.Owner{{ID: 5, Kind: catalogue.Product, SKU: "PK-100", Title: "Parka"}}
	rows := []catalogue.Row{{Line: 2, SKU: "PK-100", Title: "Parka long"}, {Line: 3, SKU: "TR-7", Title: "Trousers"}}
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
	// Output:
	// Parka, red
}
