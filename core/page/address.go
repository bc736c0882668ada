package page

import (
	"net/url"
	"regexp"
	"strings"
)

// IsWebAddress reports whether a text is an address of a web server, without a name and password in it.
func IsWebAddress(text string) bool {
	u, err := url.Parse(text)
	return err == nil && isWeb(u)
}

func isWeb(u *url.URL) bool {
	return (u.Scheme == "http" || u.Scheme == "https") && u.Hostname() != "" && u.User == nil
}

// pictureName is how addresses of pictures end: the extensions that pictures on pages have, before a question mark, or within a query.
var pictureName = regexp.MustCompile(`(?i)\.(?:jpe?g|jfif|png|webp|avif|gif|tiff?|heic)(?:$|[?#&/;,:!@]|%3f)`)

// isPictureAddress reports whether an address looks like one of a picture, by its extension.
func isPictureAddress(address string) bool {
	return len(address) <= maxAddress && pictureName.MatchString(address)
}

// sizePart is a size as addresses have it: 150x150, 300x, x300, w_200, h-90, 400px, @2x, -scaled. Common practice, no source.
var (
	sizePart  = regexp.MustCompile(`(?i)(?:^|[-_.,/])(?:[whs][-_=]?\d{2,4}(?:[,x_-][whs]?[-_=]?\d{2,4})?|\d{2,4}x\d{0,4}|x\d{2,4}|\d{2,4}px|@?[2-4]x)(?:$|[-_.,/])`)
	sizeWord  = regexp.MustCompile(`(?i)(?:^|[-_.,/])(?:thumbs?|thumbnails?|tn|small|sml|sm|mini|tiny|medium|med|md|large|lrg|lg|big|zoom(?:ed)?|full|fullsize|orig(?:inal)?s?|preview|cache|resized?|scaled|hires|xl|xxl|xs|[sml])(?:$|[-_.,/])`)
	sizeQuery = map[string]bool{"w": true, "h": true, "width": true, "height": true, "size": true, "s": true, "sw": true, "sh": true, "wid": true, "hei": true, "dpr": true,
		"quality": true, "q": true, "fit": true, "crop": true, "maxwidth": true, "maxheight": true, "imwidth": true, "resize": true, "format": true, "fm": true, "auto": true, "scale": true}
)

// SizeFree is an address without what says a size in it, so that those of one picture in several sizes are the same; host, scheme and extension
// are left out, too, as they change with the size. It is for comparing, not for asking. Which words say a size is common practice, no source.
func SizeFree(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return address
	}
	path := u.EscapedPath()
	if dot := strings.LastIndexByte(path, '.'); dot > strings.LastIndexByte(path, '/') && len(path)-dot <= 6 {
		path = path[:dot]
	}
	segments := strings.Split(strings.ToLower(path), "/")
	var parts []string
	for i, segment := range segments {
		of := strings.FieldsFunc(sizesOut(segment), isSign)
		if i == len(segments)-1 && len(of) == 0 && !(len(parts) > 0 && strings.ContainsAny(parts[len(parts)-1], "0123456789")) {
			of = []string{segment} // a name that is only a size tells pictures apart, but where its folder does
		}
		parts = append(parts, of...)
	}
	key := strings.Join(parts, "/")
	var kept []string
	for _, pair := range strings.FieldsFunc(u.RawQuery, func(r rune) bool { return r == '&' || r == ';' }) {
		name, _, _ := strings.Cut(pair, "=")
		if !sizeQuery[strings.ToLower(name)] {
			kept = append(kept, pair)
		}
	}
	if len(kept) > 0 {
		key += "?" + strings.Join(kept, "&")
	}
	return key
}

// sizesOut takes sizes out of a segment of a path. Twice, as neighbours share the sign between them.
func sizesOut(segment string) string {
	for range 2 {
		segment = sizePart.ReplaceAllString(segment, "/")
		segment = sizeWord.ReplaceAllString(segment, "/")
	}
	return segment
}

func isSign(r rune) bool { return strings.ContainsRune("/-_.,", r) }
