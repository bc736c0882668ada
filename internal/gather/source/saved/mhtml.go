package saved

import (
	"bufio"
	"encoding/base64"
	"errors"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net/textproto"
	"net/url"
	"os"
	"strings"

	"ambrosa/core/page"
)

var errNoMHTML = errors.New("the file is no MHTML")

// mostParts is how many parts of an MHTML file are read.
const mostParts = 5000

// openMHTML opens a page that was saved as one file. Source: RFC 2557 (MHTML), RFC 2045 and 2046 (MIME).
func openMHTML(name, file string) (opened, error) {
	f, err := os.Open(file)
	if err != nil {
		return opened{}, err
	}
	defer f.Close()
	in := bufio.NewReader(io.LimitReader(f, mostMHTML))
	header, err := textproto.NewReader(in).ReadMIMEHeader()
	if err != nil {
		return opened{}, errNoMHTML
	}
	kind, params, err := mime.ParseMediaType(header.Get("Content-Type"))
	if err != nil || !strings.HasPrefix(kind, "multipart/") || params["boundary"] == "" {
		return opened{}, errNoMHTML
	}
	parts := map[string][]byte{}
	var html []byte
	htmlType, address := "", header.Get("Snapshot-Content-Location")
	all := multipart.NewReader(in, params["boundary"])
	for range mostParts {
		p, err := all.NextRawPart()
		if err != nil {
			break // its end, or what is cut off: what came before is there
		}
		b, err := io.ReadAll(decoded(p))
		if err != nil && len(b) == 0 {
			continue
		}
		at := p.Header.Get("Content-Location")
		if kind := p.Header.Get("Content-Type"); html == nil && strings.HasPrefix(kind, "text/html") {
			if html, htmlType = b[:min(len(b), mostPage)], kind; at != "" {
				address = at
			}
			continue
		}
		if at != "" {
			parts[at] = b
		}
	}
	if html == nil {
		return opened{}, errNoMHTML
	}
	if address == "" {
		address = elsewhere + name
	}
	p, err := page.Parse(html, htmlType, address)
	if err != nil {
		return opened{}, err
	}
	return opened{page: p, path: name, local: func(address string) (string, []byte, bool) {
		b, ok := parts[address]
		return "", b, ok
	}}, nil
}

func decoded(p *multipart.Part) io.Reader {
	switch strings.ToLower(p.Header.Get("Content-Transfer-Encoding")) {
	case "base64":
		return base64.NewDecoder(base64.StdEncoding, p)
	case "quoted-printable":
		return quotedprintable.NewReader(p)
	}
	return p
}

// unescaped is a path of an address as files have it.
func unescaped(text string) string {
	text, _, _ = strings.Cut(text, "?")
	if plain, err := url.PathUnescape(text); err == nil {
		return plain
	}
	return text
}
