// Package docs carries the handbook and its pictures inside the program.
package docs

import "embed"

// Handbook holds handbook/*.md and screenshots/*.png.
//
//go:embed handbook/*.md screenshots/*.png
var Handbook embed.FS
