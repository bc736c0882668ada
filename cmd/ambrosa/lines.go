package main

import (
	"encoding/json"
	"io"
)

// newLines writes results as JSON, one a line, with texts as they are: no sign is written as markup would need it.
func newLines(to io.Writer) *json.Encoder {
	lines := json.NewEncoder(to)
	lines.SetEscapeHTML(false)
	return lines
}
