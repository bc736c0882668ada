package names

import "strings"

// Lexicon is the table of words by which suppliers say something beside the key. It is a
// value, so that another table can stand in its place.
type Lexicon map[string]Word

// Word is what a word says.
type Word struct {
	Role string // what a picture shows; empty for nothing
	Is   Trait
}

// Trait says what a word is besides; several at once are possible.
type Trait uint16

const (
	NumberWord  Trait = 1 << iota // stands before a number without meaning more than "picture"
	Mark                          // not part of anything
	Camera                        // what cameras and telephones put before their counter
	Dated                         // what a program puts before a date, never before a mere counter
	Program                       // what programs call a picture, whatever it shows
	Label                         // says that a key follows, or what kind of key it is
	OrderWord                     // says that the number of an order or a letter follows
	Counted                       // stands behind a number where others put a word before it
	Copied                        // a mark that a counter may follow
	OfWord                        // what "copy of" ends in
	VersionWord                   // stands before the number of a version
	Month                         // the name of a month, or its short form
	At                            // stands before a time of day
)

func (w Word) has(t Trait) bool { return w.Is&t != 0 }

// has reports whether a word is any of some traits.
func (l Lexicon) has(word string, t Trait) bool { return l[word].Is&t != 0 }

// ofPictures are words of ideographs that say "picture" behind another: 背面写真.
var ofPictures = []string{"画像", "写真", "图片", "照片", "図", "图"}

// Of is what a word says, one that ends in "picture" being as without it.
func (l Lexicon) Of(word string) Word {
	is, known := l[word]
	if known || word == "" || word[0] < 0x80 {
		return is
	}
	for _, picture := range ofPictures {
		if rest, ok := strings.CutSuffix(word, picture); ok && rest != "" {
			return l[rest]
		}
	}
	return is
}

// Says reports whether a word says something of the picture and nothing of its owner: a role, a mark, a word before a number.
func (l Lexicon) Says(word string) bool {
	w := l[word]
	return w.Role != "" || w.has(Mark|NumberWord|Label)
}

// Trade is the lexicon of the trade: English, German, French, Spanish, Italian, Dutch; the commonest words of Japanese and
// Chinese. The words are common practice, no source.
var Trade = func() Lexicon {
	l := Lexicon{}
	for role, list := range tradeRoles {
		for _, w := range strings.Fields(list) {
			l.add(w, Word{Role: role})
		}
	}
	for _, of := range tradeWords {
		for _, w := range strings.Fields(of.list) {
			l.add(w, Word{Is: of.is})
		}
	}
	return l
}()

// add adds to what is known of a word, also as it is written without its umlauts and accents.
func (l Lexicon) add(word string, what Word) {
	for _, as := range []Spelling{AsWritten, Expanded, Bare} {
		spelled, _ := Spell(word, as)
		is := l[spelled]
		if is.Role == "" {
			is.Role = what.Role
		}
		is.Is |= what.Is
		l[spelled] = is
	}
}

var tradeRoles = map[string]string{
	"front": "front vorne vorn vorderseite vorderansicht frontansicht avant devant face frontal frente frontale voorkant fronte 正面 前面 表面 " +
		"表",
	"back": "back rear hinten rueckseite rückseite rückansicht hinteransicht arriere arrière dos verso trasera atras retro achterkant " +
		"背面 裏面 裏 後面 后面 反面",
	"side": "side seite seitlich seitenansicht left right links rechts cote côté profil profile lado laterale lateral zijkant 側面 侧面 横 " +
		"左側面 右側面",
	"detail":    "detail details detailansicht closeup macro zoom nahaufnahme détail detalle dettaglio 詳細 拡大 アップ ディテール 细节 细节图",
	"packed":    "packed pack packshot packaging box boxed verpackung verpackt emballage embalaje confezione verpakking パッケージ 外箱 箱 包装",
	"top":       "top oben draufsicht dessus aufsicht arriba sopra bovenkant 上面 天面",
	"bottom":    "bottom unten untersicht dessous unterseite abajo sotto onderkant 底面 下面",
	"main":      "main hero haupt hauptbild principal cover primary メイン 主图 主圖",
	"lifestyle": "lifestyle anwendung milieu scene ambiance ambiente mood szene insitu 着用 使用 イメージ 场景 场景图",
	"inside":    "inside innen interieur intérieur interior interno 内側 内部 内面",
}

var tradeWords = []struct {
	is   Trait
	list string
}{
	{NumberWord, "abb abbildung aufnahme fig figure サブ その alt img image images pic pics photo photos bild foto view views nr no num p pg " +
		"page shot angle ansicht vue pos picture pict " +
		"imagen vista immagine afbeelding seq n pt frame wa additional extra gallery 画像 写真 図 图 图片 照片 第"},
	{Mark, "min minified optimised rotated preview モデル 加工 修正 最終 拡大図 copy kopie copie copia kopi final finale web edit edited bearbeitet " +
		"retouched retusche original orig cutout freisteller freigestellt " +
		"cropped resized scaled compressed optimized export srgb rgb cmyk hires lowres highres hi res lo hr lr thumb thumbnail neu new " +
		"draft approved duplicate px dpi image images img pic pics photo photos foto bild picture pict imagen immagine afbeelding " +
		"コピー の のコピー 副本 画像 写真 商品 商品画像 图片 照片 編集 編集済み enhanced hdr recovered restored scan scanned"},
	{Camera, "mvimg burst inshot snapchat collage videocapture camscanner screenshot foto bild scan kif hpim eos sta picture pic untitled " +
		"unbenannt frame export unnamed img dsc dscf dscn pxl mvi imgp pict photo image dji gopr cimg p vid video mg sam wp screenshot signal"},
	{Dated, "wp signal"},
	{Program, "screenshot screen shot bildschirmfoto bildschirmaufnahme whatsapp image photo foto signal telegram vid video img capture scan " +
		"pxl dsc " +
		"スクリーンショット captura pantalla instagram snapchat inshot collage mvimg burst camscanner adobe fb instagram com untitled unbenannt unnamed " +
		"export"},
	{Label, "sku art artikel artnr artikelnummer item ean gtin upc mpn ref nr nummer produkt product prod 品番 型番 商品番号"},
	{OrderWord, "po order bestellung auftrag bestellnr auftragsnr commande pedido ordine ordernr invoice rechnung lieferschein bestelling " +
		"facture"},
	{Counted, "回目 st nd rd th te ten er ère ème eme 枚目 枚 番 番目 张 張 号 號"},
	{Copied | Mark, "copy kopie copie copia kopi duplicate コピー"},
	{OfWord, "of von de di sur van"},
	{VersionWord, "v ver version rev r"},
	{At, "at um à alle om kl"},
	{Month, "january jan february feb march mar april apr may june jun july jul august aug september sep sept october oct november nov " +
		"december dec " +
		"januar jänner februar märz maerz mrz mai juni juli oktober okt dezember dez janvier janv février fevrier févr mars avril avr juin " +
		"juillet juil août aout " +
		"septembre octobre novembre décembre decembre déc enero ene febrero marzo abril mayo junio julio agosto ago septiembre octubre " +
		"noviembre diciembre dic " +
		"gennaio gen febbraio aprile maggio mag giugno giu luglio lug settembre set ottobre ott novembre dicembre januari februari maart mrt " +
		"mei augustus"},
}

func words(list string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(list) {
		set[w] = true
	}
	return set
}
