package names

import "strings"

// Lexicon is the table of words by which suppliers say something beside the key. It is a
// value, so that another table can stand in its place. The words themselves are common practice, no source.
type Lexicon struct {
	Roles       map[string]string // what a picture shows, by word
	NumberWords map[string]bool   // stand before a number without meaning more than "picture"
	Marks       map[string]bool   // not part of anything
	Cameras     map[string]bool   // what cameras and telephones put before their counter
	Programs    map[string]bool   // what programs call a picture, whatever it shows
	Labels      map[string]bool   // say that a key follows, or what kind of key it is
	Orders      map[string]bool   // say that the number of an order or a letter follows
	Counted     map[string]bool   // stand behind a number where others put a word before it
}

// Trade is the lexicon of the trade: English, German, French, Spanish, Italian, Dutch.
var Trade = Lexicon{
	Roles: roles(map[string]string{
		"front":     "front vorne vorn vorderseite vorderansicht avant devant face frontal frente frontale voorkant fronte 正面 前面 表面 表",
		"back":      "back rear hinten rueckseite rückseite rückansicht arriere arrière dos verso trasera atras retro achterkant 背面 裏面 裏 後面 后面 反面",
		"side":      "side seite seitlich seitenansicht left right links rechts cote côté profil profile lado laterale lateral zijkant 側面 侧面 横 左側面 右側面",
		"detail":    "detail details closeup macro zoom nahaufnahme détail detalle dettaglio 詳細 拡大 アップ ディテール 细节 细节图",
		"packed":    "packed pack packshot packaging box boxed verpackung verpackt emballage embalaje confezione verpakking パッケージ 外箱 箱 包装",
		"top":       "top oben dessus aufsicht arriba sopra bovenkant 上面 天面",
		"bottom":    "bottom unten dessous unterseite abajo sotto onderkant 底面 下面",
		"main":      "main hero haupt hauptbild principal cover primary メイン 主图 主圖",
		"lifestyle": "lifestyle scene ambiance ambiente mood szene insitu 着用 使用 イメージ 场景 场景图",
		"inside":    "inside innen interieur intérieur interior interno 内側 内部 内面",
	}),
	NumberWords: words("alt img image images pic pics photo photos bild foto view views nr no num p pg page shot angle ansicht vue pos picture pict " +
		"imagen vista immagine afbeelding seq n pt frame wa additional extra gallery 画像 写真 図 图 图片 照片 第"),
	Marks: words("copy kopie copie copia kopi final finale web edit edited bearbeitet retouched retusche original orig cutout freisteller freigestellt " +
		"cropped resized scaled compressed optimized export srgb rgb cmyk hires lowres highres hi res lo hr lr thumb thumbnail neu new " +
		"draft approved duplicate px dpi image images img pic pics photo photos foto bild picture pict imagen immagine afbeelding " +
		"コピー の のコピー 副本 画像 写真 商品 商品画像 图片 照片 編集 編集済み enhanced hdr recovered restored scan scanned"),
	Cameras: words("img dsc dscf dscn pxl mvi imgp pict photo image dji gopr cimg p vid video mg sam wp screenshot signal"),
	Programs: words("screenshot screen shot bildschirmfoto bildschirmaufnahme whatsapp image photo foto signal telegram vid video img capture scan pxl dsc " +
		"スクリーンショット captura pantalla instagram snapchat"),
	Labels:  words("sku art artikel artnr artikelnummer item ean gtin upc mpn ref nr nummer produkt product prod 品番 型番 商品番号"),
	Orders:  words("po order bestellung auftrag bestellnr auftragsnr commande pedido ordine ordernr invoice rechnung lieferschein bestelling facture"),
	Counted: words("枚目 枚 番 番目 张 張 号 號"),
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
