// Package message is what the program says to people, kept as a code with data; the sentence is made from one table when it is
// shown. The screens read the same table.
package message

import (
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// Message is something to say. The zero Message says nothing.
type Message struct {
	Code string         `json:"code"`
	Data map[string]any `json:"data,omitempty"`
}

// New makes a message of a code and of its data: names and values in turn.
func New(code string, data ...any) Message {
	m := Message{Code: code}
	for i := 0; i+1 < len(data); i += 2 {
		if m.Data == nil {
			m.Data = map[string]any{}
		}
		m.Data[data[i].(string)] = data[i+1]
	}
	return m
}

// Same reports whether two messages say the same.
func (m Message) Same(o Message) bool {
	return m.Code == o.Code && len(m.Data) == len(o.Data) && (len(m.Data) == 0 || m.Text() == o.Text())
}

// Error is a message as an error; Of is the error that it is one of.
type Error struct {
	Message
	Of error
}

func (e *Error) Error() string { return e.Text() }

func (e *Error) Unwrap() error { return e.Of }

// Of is what an error says as a message; ok is false where it says nothing for people.
func Of(err error) (m Message, ok bool) {
	var e *Error
	ok = errors.As(err, &e)
	if ok {
		m = e.Message
	}
	return m, ok
}

// Texts are the sentences of some messages, one after the other.
func Texts(some []Message) string {
	texts := make([]string, len(some))
	for i, m := range some {
		texts[i] = m.Text()
	}
	return strings.Join(texts, " ")
}

// Bytes is a size as people write it, in decimal units.
func Bytes(n int64) string {
	units := []string{"B", "kB", "MB", "GB", "TB", "PB", "EB"}
	x, i := float64(n), 0
	for x >= 1000 && i < len(units)-1 {
		x, i = x/1000, i+1
	}
	if i == 0 {
		return fmt.Sprintf("%d B", n)
	}
	return fmt.Sprintf("%.1f %s", x, units[i])
}

// english is the table: a sentence a code, with {{name}} where data goes. Where count decides, the code stands twice, with
// _one and _other behind it: the form of i18next's JSON v4, which the screens read.
//
//go:embed en.json
var english []byte

var sentences = sync.OnceValue(func() map[string]sentence {
	texts := map[string]string{}
	if err := json.Unmarshal(english, &texts); err != nil {
		panic(err) // the table is part of the program
	}
	t := make(map[string]sentence, len(texts))
	for code, text := range texts {
		t[code] = parted(text)
	}
	return t
})

// sentence is a text in turn with slots: one text more than slots.
type sentence struct {
	texts []string
	slots []slot
}

// slot is where data goes: {{name}}, or {{name, bytes}} for a size.
type slot struct{ name, format string }

var written = regexp.MustCompile(`{{(\w+)(?:, (\w+))?}}`)

func parted(text string) (s sentence) {
	from := 0
	for _, at := range written.FindAllStringSubmatchIndex(text, -1) {
		s.texts = append(s.texts, text[from:at[0]])
		of := slot{name: text[at[2]:at[3]]}
		if at[4] >= 0 {
			of.format = text[at[4]:at[5]]
		}
		s.slots, from = append(s.slots, of), at[1]
	}
	s.texts = append(s.texts, text[from:])
	return s
}

// Codes are all codes of the table, in order.
func Codes() []string {
	var codes []string
	for code := range sentences() {
		codes = append(codes, strings.TrimSuffix(strings.TrimSuffix(code, "_one"), "_other"))
	}
	slices.Sort(codes)
	return slices.Compact(codes)
}

// Text is the sentence in English; a code that is not in the table is shown with its data.
func (m Message) Text() string {
	if m.Code == "" {
		return ""
	}
	said, known := sentences()[m.Code]
	if count, counted := m.Data["count"]; counted && !known {
		form := "_other"
		if fmt.Sprint(count) == "1" {
			form = "_one"
		}
		said, known = sentences()[m.Code+form]
	}
	if !known {
		text := m.Code
		for _, name := range slices.Sorted(maps.Keys(m.Data)) {
			text += fmt.Sprintf(" %s=%v", name, m.Data[name])
		}
		return text
	}
	if len(said.slots) == 0 {
		return said.texts[0]
	}
	var b strings.Builder
	for i, text := range said.texts {
		b.WriteString(text)
		if i < len(said.slots) {
			b.WriteString(filled(m.Data[said.slots[i].name], said.slots[i].format))
		}
	}
	return b.String()
}

// filled is a value as it stands in a sentence; empty where there is none.
func filled(value any, format string) string {
	if value == nil {
		return ""
	}
	number, is := value.(float64) // as JSON has it
	if n, whole := value.(int64); whole {
		number, is = float64(n), true
	}
	switch {
	case is && format == "bytes":
		return Bytes(int64(number))
	case is && number == math.Trunc(number) && math.Abs(number) < 1e15:
		return strconv.FormatInt(int64(number), 10)
	}
	return fmt.Sprint(value)
}
