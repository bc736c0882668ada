package store

import "strings"

var likeSigns = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// EscapeLike makes a text stand for itself in a LIKE pattern.
func EscapeLike(s string) string { return likeSigns.Replace(s) }
