package table

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// words are what headers call the fields, in English, German, French, Italian, Spanish and Dutch (common practice, no source).
var words = map[Field][]string{
	SKU: {"sku", "item no", "item nr", "item number", "item code", "article no", "article number", "product no", "product number",
		"product code", "part number", "part no", "stock keeping unit", "artikelnummer", "artikel nr", "artikelnr", "art nr", "artnr",
		"bestellnummer", "reference", "ref", "code article", "numero d article", "codice articolo", "codice prodotto", "referencia",
		"codigo de articulo", "artikelcode"},
	Parent: {"parent", "parent sku", "product sku", "master sku", "main product", "product", "vaterartikel", "hauptartikel", "hauptprodukt",
		"produkt", "article parent", "produit", "produit parent", "prodotto padre", "producto padre", "hoofdartikel"},
	KindOf: {"kind", "type", "record type", "typ", "datensatzart", "genre", "tipo", "soort"},
	Title: {"title", "name", "product name", "product title", "item name", "designation", "titel", "bezeichnung", "artikelbezeichnung",
		"produktname", "artikelname", "nom", "nom du produit", "libelle", "intitule", "nome", "titolo", "descrizione", "nombre", "titulo", "naam",
		"productnaam", "omschrijving"},
	Barcode: {"barcode", "bar code", "ean", "ean 13", "ean13", "ean code", "gtin", "gtin 13", "upc", "upc a", "strichcode", "code barres",
		"code a barres", "codice a barre", "codigo de barras", "streepjescode"},
	Code: {"code", "house code", "internal code", "category number", "category code", "hauscode", "kategorienummer", "nummer", "code interne",
		"codice", "codice interno", "codigo", "codigo interno", "interne code"},
	Category: {"category", "categories", "category path", "product group", "kategorie", "kategorien", "warengruppe", "produktgruppe", "categorie",
		"groupe de produits", "categoria", "gruppo merceologico", "productgroep"},
	Price: {"price", "unit price", "net price", "list price", "retail price", "rrp", "preis", "einzelpreis", "nettopreis", "listenpreis", "vk", "uvp",
		"prix", "prix unitaire", "prezzo", "precio", "prijs"},
	Main: {"main", "main image", "main picture", "main photo", "primary image", "cover image", "hauptbild", "titelbild", "image principale",
		"photo principale", "immagine principale", "imagen principal", "hoofdafbeelding"},
	Pictures: {"images", "pictures", "photos", "image list", "additional images", "more images", "further images", "further pictures",
		"other images", "gallery", "bilder", "weitere bilder", "zusatzbilder", "fotos", "galerie", "images supplementaires", "immagini", "galleria",
		"imagenes", "galeria", "afbeeldingen"},
	Picture: {"picture", "image", "photo", "file", "file name", "filename", "image file", "image name", "picture file", "image url", "image link",
		"picture address", "image address", "bild", "bilddatei", "bildname", "datei", "dateiname", "foto", "bild url", "bildadresse", "fichier",
		"nom du fichier", "nom de fichier", "immagine", "nome file", "imagen", "archivo", "nombre de archivo", "afbeelding", "bestand",
		"bestandsnaam", "url", "link", "adresse", "address"},
	Position: {"position", "pos", "order", "sort", "sort order", "sequence", "picture no", "image no", "reihenfolge", "sortierung", "rang", "bild nr",
		"ordre", "rangee", "posizione", "ordine", "posicion", "orden", "positie", "volgorde"},
	MainFlag: {"main flag", "is main", "main", "primary", "is primary", "haupt", "hauptbild ja nein", "ist hauptbild", "est principale", "principale",
		"principal", "es principal", "hoofd"},
	Alt: {"alt", "alt text", "alttext", "alternative text", "image alt", "image description", "alternativtext", "bildbeschreibung",
		"texte alternatif", "testo alternativo", "texto alternativo", "alternatieve tekst", "alt tekst"},
}

// eitherWords are headers of a product's SKU in one table and of its title in another.
var eitherWords = []string{"product", "produkt", "produit", "prodotto", "producto"}

// descriptionWords are headers of a title where no other column has it.
var descriptionWords = []string{"description", "item description", "product description", "beschreibung", "artikelbeschreibung"}

// optionWords are what tells variants of a product apart in most tables (common practice, no source).
var optionWords = []string{"colour", "color", "size", "length", "width", "material", "flavour", "farbe", "grosse", "lange", "breite", "couleur",
	"taille", "longueur", "colore", "taglia", "misura", "talla", "tamano", "kleur", "maat"}

// plain is a header as headers are compared: small letters without accents, words apart by one blank.
func plain(s string) string {
	var b strings.Builder
	blank := false
	for _, r := range norm.NFKD.String(s) {
		switch {
		case unicode.Is(unicode.Mn, r), unicode.Is(unicode.Cf, r):
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if blank && b.Len() > 0 {
				b.WriteByte(' ')
			}
			blank = false
			b.WriteString(strings.ReplaceAll(string(unicode.ToLower(r)), "ß", "ss"))
		default:
			blank = true
		}
	}
	return b.String()
}

// How surely a header names a field.
const (
	namesItself = 100 // the whole header
	namesAside  = 80  // what stands in brackets, or before them
	namesWithin = 40  // some of its words
)

// meaning is how surely a header names a field; 0 where it does not.
func meaning(header string, f Field) int {
	if header == string(f) {
		return namesItself + 20
	}
	whole := plain(header)
	best := 0
	if f == Title && (slices.Contains(eitherWords, whole) || slices.Contains(descriptionWords, whole)) {
		best = namesWithin
	}
	for _, w := range words[f] {
		if whole == w {
			return namesItself + len(w)/4
		}
		if len(w) > 2 && strings.Contains(" "+whole+" ", " "+w+" ") {
			best = max(best, namesWithin+len(w))
		}
	}
	for part := range strings.FieldsFuncSeq(header, func(r rune) bool { return strings.ContainsRune("()[]{}/|", r) }) {
		if part == header {
			break
		}
		part = plain(part)
		for _, w := range words[f] {
			if part == w {
				best = max(best, namesAside+len(w)/4)
			}
		}
	}
	return best
}
