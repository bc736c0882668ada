package names

import "strings"

// Lexicon is the table of words by which suppliers say something beside the key. It is a
// value, so that another table can stand in its place. The words themselves are common practice, no source.
type Lexicon struct {
	Roles       map[string]string // what a picture shows, by word
	NumberWords map[string]bool   // stand before a number without meaning more than "picture"
	Marks       map[string]bool   // not part of anything
	Cameras     map[string]bool   // what cameras and telephones put before their counter
}

// Trade is the lexicon of the trade: English, German, French, Spanish, Italian, Dutch.
var Trade = Lexicon{
	Roles: roles(map[string]string{
		"front":     "front vorne vorn vorderseite vorderansicht avant devant face frontal frente frontale voorkant fronte",
		"back":      "back rear hinten rueckseite rückseite rückansicht arriere arrière dos verso trasera atras retro achterkant",
		"side":      "side seite seitlich seitenansicht left right links rechts cote côté profil profile lado laterale lateral zijkant",
		"detail":    "detail details closeup macro zoom nahaufnahme détail detalle dettaglio",
		"packed":    "packed pack packshot packaging box boxed verpackung verpackt emballage embalaje confezione verpakking",
		"top":       "top oben dessus aufsicht arriba sopra bovenkant",
		"bottom":    "bottom unten dessous unterseite abajo sotto onderkant",
		"main":      "main hero haupt hauptbild principal cover primary",
		"lifestyle": "lifestyle scene ambiance ambiente mood szene insitu",
		"inside":    "inside innen interieur intérieur interior interno",
	}),
	NumberWords: words("alt img image images pic pics photo photos bild foto view views nr no num p pg page shot angle ansicht vue pos picture pict " +
		"imagen vista immagine afbeelding seq n pt frame wa additional extra gallery"),
	Marks: words("copy kopie copie copia kopi final finale web edit edited bearbeitet retouched retusche original orig cutout freisteller freigestellt " +
		"cropped resized scaled compressed optimized export srgb rgb cmyk hires lowres highres hi res lo hr lr thumb thumbnail neu new " +
		"draft approved duplicate px dpi"),
	Cameras: words("img dsc dscf dscn pxl mvi imgp pict photo image dji gopr cimg p"),
}

func words(list string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(list) {
		set[w] = true
	}
	return set
}

func roles(lists map[string]string) map[string]string {
	of := map[string]string{}
	for role, list := range lists {
		for _, w := range strings.Fields(list) {
			of[w] = role
		}
	}
	return of
}
