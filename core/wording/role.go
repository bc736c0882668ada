package wording

// roles are what a picture shows, in words, by language and by the role that its name tells. From dictionaries, from memory.
var roles = map[string]map[string]string{
	"en": {"front": "front view", "back": "back view", "side": "side view", "top": "view from above", "bottom": "view from below", "detail": "detail",
		"packed": "packed", "lifestyle": "in use", "inside": "inside"},
	"de": {"front": "Vorderansicht", "back": "Rückansicht", "side": "Seitenansicht", "top": "Ansicht von oben", "bottom": "Ansicht von unten",
		"detail": "Detail", "packed": "verpackt", "lifestyle": "im Einsatz", "inside": "Innenansicht"},
}

// SetRole says what a picture shows in the record, in the languages that have words for it. role is that of its name; empty for none.
func (r Record) SetRole(role string) {
	for lang, words := range roles {
		r["role."+lang] = words[role]
	}
	r["role"] = ""
}
