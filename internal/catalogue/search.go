package catalogue

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ambrosa/core/catalogue"
	"ambrosa/core/gtin"
	"ambrosa/internal/store"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/semaphore"
)

// What a search may cost.
const (
	mostWords  = 8   // of a question; further ones are not looked for
	mostMet    = 100 // owners that are weighed against each other
	few        = 3   // fewer found than this, and near ones are looked for
	slice      = 400 // products, and variants, at the catalogue's beginning that are looked at first
	nearTime   = 300 * time.Millisecond
	nearLength = 48 // characters of a question that are compared with titles
)

// heavy bounds how many look for near titles at a time: it is the one step whose cost depends on how common a question's
// letters are. Who comes when it is taken goes without that step.
var heavy = semaphore.NewWeighted(2)

// mostShown is how many owners a search within the catalogue's boards looks at.
const mostShown = 100

// SearchProducts returns the products that a search within the catalogue's boards finds, themselves or by a variant.
func SearchProducts(ctx context.Context, s *store.Store, text string) ([]int64, error) {
	found, err := Search(ctx, s, text, mostShown)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(found))
	for i, f := range found {
		ids[i] = f.ID
	}
	return s.ProductsOf(ctx, ids)
}

// Found is an owner that a search met.
type Found struct {
	ID          int64
	Kind        string
	SKU         string
	Title       string
	ParentTitle string
	Options     json.RawMessage
	Picture     string // SHA-256 in hex of the main image
	Exact       bool   // its SKU or barcode is the question, letter for letter but for case and separators
}

// said is what is said of an owner in one text; the index owner_search is over it.
func said(table string) string {
	return fmt.Sprintf("lower(%[1]s.sku || ' ' || %[1]s.barcode || ' ' || %[1]s.code || ' ' || %[1]s.title || ' ' || %[1]s.titles::text || ' ' || %[1]s.options::text)", table)
}

// Search finds products and variants: by their exact SKU or barcode, and those that begin with it; else those of which each
// word is said, also as a variant of a product of which the others are; and where nothing is found, near ones. Words that are
// so common that the catalogue's beginning holds enough of them are not looked for any further. The rest goes by index; the
// last step, which may be slow, is bounded in time and in number.
func Search(ctx context.Context, s *store.Store, text string, most int) ([]Found, error) {
	words := strings.Fields(strings.ToLower(text))
	words = words[:min(len(words), mostWords)]
	if len(words) == 0 {
		return nil, nil
	}
	ids, err := collect(ctx, s, exactSQL, catalogue.Identity(text), barcodeForms(text))
	if err != nil {
		return nil, err
	}
	if len(ids) > 0 {
		// A key that is met is what was meant; beside it stand those that begin with it.
		begin, err := collect(ctx, s, beginsSQL, store.EscapeLike(catalogue.Identity(text))+"%")
		if err != nil {
			return nil, err
		}
		return weigh(ctx, s, append(ids, begin...), text, words, most)
	}
	sql, args := commonSQL(words)
	if ids, err = collect(ctx, s, sql, args...); err != nil {
		return nil, err
	}
	if len(ids) < most {
		sql, args = wordsSQL(words)
		met, err := collect(ctx, s, sql, args...)
		if err != nil {
			return nil, err
		}
		ids = append(ids, met...)
	}
	if len(ids) < few {
		more, err := further(ctx, s, text, words, len(ids) == 0)
		if err != nil {
			return nil, err
		}
		ids = append(ids, more...)
	}
	return weigh(ctx, s, ids, text, words, most)
}

const (
	exactSQL  = `SELECT id FROM owner WHERE identity = $1 UNION ALL SELECT id FROM owner WHERE barcode = ANY ($2) AND barcode <> ''`
	beginsSQL = `SELECT id FROM owner WHERE identity LIKE $1 ORDER BY identity USING ~<~ LIMIT 100` // the order of the index owner_identity
)

// barcodeForms are the ways in which the barcode of a question may be written down.
func barcodeForms(text string) []string {
	digits, err := gtin.Parse(text)
	if err != nil {
		return []string{strings.TrimSpace(text)} // one that is no GTIN is written in one way
	}
	forms := []string{digits}
	for _, length := range []int{13, 12, 8} {
		if strings.Trim(digits[:14-length], "0") == "" {
			forms = append(forms, digits[14-length:])
		}
	}
	return forms
}

// indexed reports whether a word is long enough for the index, which is over three letters in a row.
func indexed(word string) bool { return utf8.RuneCountInString(word) >= 3 }

// arguments are those of a statement that is put together.
type arguments []any

func (a *arguments) like(table, word string) string {
	*a = append(*a, "%"+store.EscapeLike(word)+"%")
	return fmt.Sprintf("%s LIKE $%d", said(table), len(*a))
}

// all says that an owner says all words.
func (a *arguments) all(table string, words []string) string {
	conditions := []string{table + ".kind <> 'category'"}
	for _, w := range words {
		conditions = append(conditions, a.like(table, w))
	}
	return strings.Join(conditions, " AND ")
}

// without returns the words but for one, and whether they can be looked for by the index.
func without(words []string, i int) (others []string, ok bool) {
	others = slices.Delete(slices.Clone(words), i, i+1)
	return others, slices.ContainsFunc(others, indexed)
}

// commonSQL looks at the beginning of the catalogue.
func commonSQL(words []string) (string, []any) {
	var a arguments
	return fmt.Sprintf(`SELECT o.id FROM ((SELECT * FROM owner WHERE kind = 'product' ORDER BY ordinal LIMIT %[1]d) UNION ALL (SELECT * FROM owner WHERE kind = 'variant' ORDER BY ordinal LIMIT %[1]d)) o
		WHERE %[2]s LIMIT %[3]d`, slice, a.all("o", words), mostMet), a
}

// wordsSQL finds owners that say all words. Where none is long enough for the index, a SKU must begin with the first.
func wordsSQL(words []string) (string, []any) {
	var a arguments
	if !slices.ContainsFunc(words, indexed) {
		rest := a.all("o", words[1:])
		a = append(a, store.EscapeLike(words[0])+"%")
		return fmt.Sprintf(`SELECT o.id FROM (SELECT * FROM owner WHERE identity LIKE $%d ORDER BY identity USING ~<~ LIMIT 2000) o WHERE %s LIMIT %d`, len(a), rest, mostMet), a
	}
	return fmt.Sprintf("SELECT o.id FROM owner o WHERE %s LIMIT %d", a.all("o", words), mostMet), a
}

// further finds variants that say one of the words, of products that say the others: the last word is tried first, as people
// name the variant behind its product. Where that finds none, and near is asked for: a SKU one slip of the finger away, owners
// that say all words but one, as it may be misspelt, and titles that are like the question.
func further(ctx context.Context, s *store.Store, text string, words []string, near bool) ([]int64, error) {
	if near && len(words) == 1 {
		if ids, err := collect(ctx, s, "SELECT id FROM owner WHERE identity = ANY ($1)", slips(catalogue.Identity(text))); err != nil || len(ids) > 0 {
			return ids, err
		}
	}
	var butOne []int64
	for i := len(words) - 1; i >= 0 && len(words) <= 4; i-- {
		others, ok := without(words, i)
		if !ok {
			continue
		}
		var a arguments
		met, err := collect(ctx, s, fmt.Sprintf("SELECT o.id FROM owner o WHERE %s LIMIT %d", a.all("o", others), mostMet), a...)
		if err != nil {
			return nil, err
		}
		a = arguments{met}
		variants, err := collect(ctx, s, fmt.Sprintf("SELECT v.id FROM owner v WHERE v.parent = ANY ($1) AND %s LIMIT %d", a.like("v", words[i]), mostMet), a...)
		if err != nil || len(variants) > 0 {
			return variants, err
		}
		butOne = append(butOne, met[:min(len(met), mostMet/len(words))]...)
	}
	switch {
	case !near:
		return nil, nil
	case len(butOne) > 0:
		return butOne, nil
	}
	return likeTitles(ctx, s, text, words)
}

// likeTitles finds owners whose words are like the question.
func likeTitles(ctx context.Context, s *store.Store, text string, words []string) (ids []int64, err error) {
	if utf8.RuneCountInString(text) > nearLength || !slices.ContainsFunc(words, indexed) || !heavy.TryAcquire(1) {
		return nil, nil
	}
	defer heavy.Release(1)
	err = pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, fmt.Sprintf("SET LOCAL statement_timeout = %d", nearTime.Milliseconds())); err != nil {
			return err
		}
		rows, err := tx.Query(ctx, fmt.Sprintf("SELECT o.id FROM owner o WHERE o.kind <> 'category' AND $1 <%% %s LIMIT %d", said("o"), mostMet), pgx.QueryExecModeExec, strings.ToLower(text))
		if err != nil {
			return err
		}
		ids, err = pgx.CollectRows(rows, pgx.RowTo[int64])
		return err
	})
	if store.TookTooLong(err) && ctx.Err() == nil {
		return nil, nil // too common to tell what is near
	}
	return ids, err
}

// slips are the texts that one slip makes of a SKU: a letter too many, too few, another, or two exchanged.
func slips(sku string) []string {
	const letters = "abcdefghijklmnopqrstuvwxyz0123456789-"
	runes := []rune(sku)
	if len(runes) < 4 || len(runes) > 24 {
		return nil
	}
	var all []string
	for i := range len(runes) + 1 {
		head, tail := string(runes[:i]), runes[i:]
		for _, l := range letters {
			all = append(all, head+string(l)+string(tail))
		}
		if len(tail) == 0 {
			continue
		}
		all = append(all, head+string(tail[1:]))
		for _, l := range letters {
			all = append(all, head+string(l)+string(tail[1:]))
		}
		if len(tail) > 1 {
			all = append(all, head+string([]rune{tail[1], tail[0]})+string(tail[2:]))
		}
	}
	return all
}

// collect asks for owners. The statement is planned with its arguments: a plan for any pattern would not use the index.
func collect(ctx context.Context, s *store.Store, sql string, args ...any) ([]int64, error) {
	rows, err := s.Pool.Query(ctx, sql, append([]any{pgx.QueryExecModeExec}, args...)...)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[int64])
}

// weigh orders what was met, with the variants of products among it: exact keys, keys that begin so, owners that say every
// word themselves, then by likeness and the catalogue's order.
func weigh(ctx context.Context, s *store.Store, ids []int64, text string, words []string, most int) ([]Found, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	patterns := make([]string, len(words))
	for i, w := range words {
		patterns[i] = "%" + store.EscapeLike(w) + "%"
	}
	own := said("o")
	rows, err := s.Pool.Query(ctx, `WITH family AS (
			SELECT id FROM unnest($1::bigint[]) id UNION SELECT v.id FROM owner v WHERE v.parent = ANY ($1)
		)
		SELECT o.id, o.kind, o.sku, o.title, coalesce(p.title, ''), o.options, coalesce(encode(a.sha256, 'hex'), ''),
			(o.identity = $2 OR o.barcode <> '' AND o.barcode = ANY ($3)) IS TRUE
		FROM family JOIN owner o ON o.id = family.id AND NOT o.retired LEFT JOIN owner p ON p.id = o.parent AND o.kind = 'variant'
		LEFT JOIN placement f ON f.owner_id = o.id AND f.position = 1 LEFT JOIN asset a ON a.id = f.asset_id
		ORDER BY (o.identity = $2) DESC, (o.barcode <> '' AND o.barcode = ANY ($3)) DESC, (o.identity LIKE $4) DESC,
			(`+own+` LIKE ALL ($5)) DESC, ((`+own+` || ' ' || lower(coalesce(p.title, ''))) LIKE ALL ($5)) DESC,
			word_similarity($6, `+own+`) DESC, o.ordinal, o.id
		LIMIT $7`, ids, catalogue.Identity(text), barcodeForms(text), store.EscapeLike(catalogue.Identity(text))+"%", patterns, strings.ToLower(text), most)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Found])
}
