package api

import (
	"reflect"
	"strings"

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
	return strings.TrimSuffix(name, "Body")
}
