package api

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"

	"github.com/danielgtaylor/huma/v2"
)

var errNoTextBody = errors.New("the body holds bytes that are no text: NUL, or no UTF-8")

// textJSON is JSON (RFC 8259) all of whose texts can be kept: UTF-8, and without NUL, which JSON can say and PostgreSQL
// can't hold. It is checked here once for all operations.
var textJSON = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		e := json.NewEncoder(w)
		e.SetEscapeHTML(false)
		return e.Encode(v)
	},
	Unmarshal: func(data []byte, v any) error {
		if !isText(string(data)) || saysNUL(data) {
			return errNoTextBody
		}
		return json.Unmarshal(data, v)
	},
}

// saysNUL reports whether JSON holds the escape for NUL: its backslash is not itself escaped.
func saysNUL(data []byte) bool {
	for at := 0; ; {
		i := bytes.Index(data[at:], []byte(`\u0000`))
		if i < 0 {
			return false
		}
		i += at
		before := 0
		for before < i && data[i-1-before] == '\\' {
			before++
		}
		if before%2 == 0 {
			return true
		}
		at = i + 1
	}
}
