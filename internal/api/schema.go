package api

import (
	"reflect"
	"strings"

	"ambrosa/core/page"
	"ambrosa/internal/gather"

	"github.com/danielgtaylor/huma/v2"
)

// schemaName is what a type is called in the description of the interface: by what it holds ("Delivery" for deliveryBody), and by
// its operation where the type has no name of its own ("SetRoleRequest").
func schemaName(t reflect.Type, hint string) string {
	if t == reflect.TypeFor[huma.ErrorModel]() {
		return "ProblemDetails" // RFC 9457
	}
	name := ""
	for word := range strings.SplitSeq(huma.DefaultSchemaNamer(t, hint), "-") {
		name += strings.ToUpper(word[:1]) + word[1:]
	}
	if t.PkgPath() == reflect.TypeFor[page.Guide]().PkgPath() && !strings.HasPrefix(name, "Guide") {
		name = "Guide" + name // parts of a guide: GuideRule, GuideStep
	}
	return strings.TrimSuffix(name, "Body")
}

// pathText is a path or a name in a list of them: texts of a list have no length of their own otherwise.
type pathText string

// Schema describes it.
func (pathText) Schema(huma.Registry) *huma.Schema {
	most := gather.MaxPath
	return &huma.Schema{Type: huma.TypeString, MaxLength: &most}
}

func plainTexts(some []pathText) []string {
	all := make([]string, len(some))
	for i, t := range some {
		all[i] = string(t)
	}
	return all
}
