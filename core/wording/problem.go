package wording

import (
	"path"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"ambrosa/core/colour"
	"ambrosa/core/names"
)

// Problem says what is wrong with a text.
type Problem string

const (
	Long          Problem = "alt_long"       // an alt text of more than MostAlt characters
	Missing       Problem = "alt_missing"    // an alt text that is empty
	SaysImageOf   Problem = "says_image_of"  // it begins with "image of", which a screen reader says itself
	SameOnOwner   Problem = "same_on_owner"  // another picture of the owner has the same text
	OnlyKey       Problem = "only_key"       // it says nothing but a SKU, a barcode or a code
	IsFileName    Problem = "is_file_name"   // it is the name of a file, or what a program calls a picture
	ColourDiffers Problem = "colour_differs" // it names a colour that the picture isn't
	FieldUnknown  Problem = "field_unknown"  // the pattern names a field that there is not
)

// Problems are all of them, in the order they are told.
var Problems = []Problem{Missing, Long, SaysImageOf, SameOnOwner, OnlyKey, IsFileName, ColourDiffers, FieldUnknown}

// Add adds a problem to others, in the order they are told.
func Add(found []Problem, p Problem) []Problem {
	found = append(found, p)
	slices.SortFunc(found, func(a, b Problem) int { return slices.Index(Problems, a) - slices.Index(Problems, b) })
	return found
}

// MostAlt is how long an alt text should be at most, in characters. Common practice, no source.
const MostAlt = 125

// Said is a text, and what is known of the picture that it is for.
type Said struct {
	Field  Field
	Text   string
	Keys   []string // SKUs, barcodes and codes of the owner
	File   string   // what the picture's file is called
	Colour string   // the owner's own colour word, where it has one
	Others []string // the colour words of the owner's siblings
	Shows  []colour.Swatch
}

// Check tells what is wrong with one text by itself. words are the catalogue's own colours; nil for those of CSS alone. Sources: WCAG 2.2
// techniques G94, G95 and H37 (a text that serves the same purpose, or describes in brief) and failure F30 (file names and placeholders as
// text alternatives). The length and what a text should not begin with are common practice, no source.
func Check(s Said, words colour.Words) (found []Problem) {
	text := strings.TrimSpace(s.Text)
	if text == "" {
		if s.Field == Alt {
			return []Problem{Missing}
		}
		return nil
	}
	if s.Field == FileName {
		return nil
	}
	if s.Field == Alt && utf8.RuneCountInString(text) > MostAlt {
		found = append(found, Long)
	}
	if s.Field == Alt && imageOf.MatchString(text) {
		found = append(found, SaysImageOf)
	}
	if slices.ContainsFunc(s.Keys, func(key string) bool { return isOnly(text, key) }) {
		found = append(found, OnlyKey)
	}
	if IsNoAlternative(text, s.File) {
		found = append(found, IsFileName)
	}
	if differs(s, words) {
		found = append(found, ColourDiffers)
	}
	return found
}

// Same is the form in which two texts of one owner are the same; empty for none.
func Same(text string) string { return strings.ToLower(strings.Join(strings.Fields(text), " ")) }

// imageOf is what a text should not begin with, as a screen reader says itself that it is a picture; alone it says nothing either.
var imageOf = regexp.MustCompile(`(?i)^\W*((an?|the|this|eine?|das|dies|une?|l[ae]|un[ao]?|il|el|een|het|ett?|en)\s+)?` +
	`((image|picture|photo|photograph|pic|graphic|img)s?(\s+(of|showing|shows)\b|\W*$)` +
	`|(bild|foto|fotografie|grafik|abbildung|aufnahme)(er|en|s)?(\s+(von|vom|des|der|mit|eine[rs]?|zeigt)\b|\W*$)` +
	`|(image|photo|photographie)s?\s+(d['’]|(de|du|des)\b)|(imagen|foto|fotografía)(es|s)?\s+(de|del)\b` +
	`|(immagine|fotografia)\s+(di|del|della)\b|foto\s+(di|van|på|av|af)\b|(imagem|afbeelding|bilde?|billede)\s+(de|do|da|van|på|av|af)\b)`)

// isOnly reports whether a text is a key and nothing else but a word for it, or a short number behind it.
func isOnly(text, key string) bool {
	of := names.Tokens(key, 0)
	if len(of) == 0 {
		return false
	}
	tokens := names.Tokens(text, 0)
	for len(tokens) > len(of) && slices.Contains([]string{"sku", "ean", "gtin", "art", "artikel", "nr", "no", "item"}, tokens[0].Folded) {
		tokens = tokens[1:]
	}
	if n := len(tokens) - 1; n == len(of) && tokens[n].Digits && len(tokens[n].Folded) <= 2 {
		tokens = tokens[:n]
	}
	return names.Canonical(tokens) == names.Canonical(of)
}

// fileLike is how the name of a picture's file ends.
var fileLike = regexp.MustCompile(`(?i)\S\.(jpe?g|jfif|png|gif|webp|avif|heic|heif|tiff?|bmp|svg|jxl|psd)$`)

// emptyWords say nothing of what is to be seen. Common practice, no source.
var emptyWords = []string{"image", "picture", "photo", "img", "bild", "foto", "abbildung", "immagine", "imagen", "afbeelding", "placeholder", "spacer", "alt",
	"alttext", "untitled"}

// reference is what a program calls a picture: a number alone, or a word with one behind #.
var reference = regexp.MustCompile(`^(\d+|[\pL\d]+#\d+)$`)

// IsNoAlternative reports whether a text is none that says what is to be seen: the name of a file (of its own, where that is known), what
// a camera or a program called it, or a word that fits every picture. Source: WCAG 2.2, failure F30.
func IsNoAlternative(text, file string) bool {
	text = strings.TrimSpace(text)
	if fileLike.MatchString(text) || reference.MatchString(text) || names.Trade.IsCamera(text, names.Tokens(text, 0)) {
		return true
	}
	if tokens := names.Tokens(text, 0); len(tokens) > 0 {
		bare := slices.DeleteFunc(tokens, func(t names.Token) bool { return t.Digits })
		if len(bare) == 1 && slices.Contains(emptyWords, bare[0].Folded) {
			return true
		}
	}
	base := path.Base(file)
	return file != "" && (strings.EqualFold(text, base) || strings.EqualFold(text, strings.TrimSuffix(base, path.Ext(base))))
}

// differs reports whether a text names a colour that the picture does not show, as far as can be told.
func differs(s Said, words colour.Words) bool {
	if len(s.Shows) == 0 {
		return false
	}
	for _, word := range colourWords(s.Text, s.Colour, words) {
		if words.Mismatch(s.Shows, word, s.Others) != "" {
			return true
		}
	}
	return false
}

// colourWords are the words in a text that name colours, longer names first: of "light blue" not "blue". A word of other languages is
// given in English.
func colourWords(text, own string, words colour.Words) (found []string) {
	tokens := names.Tokens(text, 0)
	for i := 0; i < len(tokens); i++ {
		for n := min(2, len(tokens)-i); n > 0; n-- {
			word := tokens[i].Folded
			if n == 2 {
				word += " " + tokens[i+1].Folded
			}
			english, translated := inEnglish[word]
			if translated {
				word = english
			}
			if _, known := words.Of(word); known && (translated || !alsoThings[word] || strings.EqualFold(word, own)) {
				found = append(found, word)
				i += n - 1
				break
			}
		}
	}
	return found
}

// alsoThings are names of colours in CSS that more often name a thing. Common practice, no source.
var alsoThings = map[string]bool{"linen": true, "snow": true, "peru": true, "wheat": true, "tomato": true, "chocolate": true, "salmon": true, "ivory": true,
	"tan": true, "seashell": true, "orchid": true, "thistle": true, "plum": true, "coral": true, "mint cream": true, "sienna": true, "azure": true}

// inEnglish are everyday words for colours in other languages. From dictionaries, from memory.
var inEnglish = map[string]string{"rot": "red", "rote": "red", "roter": "red", "rotes": "red", "blau": "blue", "blaue": "blue", "blauer": "blue", "blaues": "blue",
	"gruen": "green", "grün": "green", "grüne": "green", "grüner": "green", "grünes": "green", "gelb": "yellow", "gelbe": "yellow", "gelber": "yellow",
	"gelbes": "yellow", "schwarz": "black", "schwarze": "black", "schwarzer": "black", "schwarzes": "black", "weiss": "white", "weiß": "white", "weiße": "white",
	"weißer": "white", "weißes": "white", "grau": "grey", "graue": "grey", "grauer": "grey", "graues": "grey", "braun": "brown", "braune": "brown",
	"brauner": "brown", "braunes": "brown", "lila": "purple", "violett": "purple", "rosa": "pink", "türkis": "turquoise", "silbern": "silver",
	"rouge": "red", "bleu": "blue", "bleue": "blue", "vert": "green", "verte": "green", "jaune": "yellow", "noir": "black", "noire": "black", "blanc": "white",
	"blanche": "white", "gris": "grey", "marron": "brown", "rojo": "red", "roja": "red", "azul": "blue", "verde": "green", "amarillo": "yellow",
	"negro": "black", "blanco": "white", "rosso": "red", "rossa": "red", "giallo": "yellow", "nero": "black", "bianco": "white"}
