package catalogue

import (
	"maps"
	"slices"
	"strings"
)

// Label names an owner for people: a variant by its product's title and its options, in the order of the
// options' names, where it has no title of its own.
func Label(title, parentTitle string, options map[string]string) string {
	if title == "" {
		title = parentTitle
	}
	parts := []string{title}
	for _, name := range slices.Sorted(maps.Keys(options)) {
		if value := options[name]; !strings.Contains(strings.ToLower(title), strings.ToLower(value)) {
			parts = append(parts, value)
		}
	}
	return strings.Join(slices.DeleteFunc(parts, func(s string) bool { return s == "" }), ", ")
}
