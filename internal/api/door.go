package api

import (
	"context"
	"crypto/subtle"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humafiber"
	"github.com/gofiber/fiber/v2"
)

const (
	sessionCookie = "ambrosa_session"
	csrfHeader    = "X-Ambrosa-CSRF"
)

// What an operation says of those who may use it stands in its metadata under these names.
const (
	roleNeeded    = "role"    // a people.Role
	sessionNeeded = "session" // true where an access token is not enough
)

var (
	errCSRF    = fiber.NewError(fiber.StatusForbidden, "The request has no valid CSRF token. Load the page again.")
	errSession = fiber.NewError(fiber.StatusForbidden, "An access token can't do this; sign in with your password.")
)

// operation describes an operation of the interface and states the role it needs; people.Anybody needs no sign-in.
func operation(role people.Role, method, path, id, summary string) huma.Operation {
	station, _, _ := strings.Cut(strings.TrimPrefix(path, "/api/"), "/")
	return huma.Operation{Method: method, Path: path, OperationID: id, Summary: summary, Tags: []string{station},
		Metadata: map[string]any{roleNeeded: role}, Extensions: map[string]any{"x-role": string(role)}}
}

// bySession keeps an operation to those who signed in with a password.
func bySession(op huma.Operation) huma.Operation {
	op.Metadata[sessionNeeded] = true
	return op
}

// plain adds an operation whose answer is no JSON: it is described like the others and passes the same door.
func (s *Server) plain(app *fiber.App, api huma.API, op huma.Operation, handler fiber.Handler) {
	op.Responses = map[string]*huma.Response{"default": {Description: "See the summary."}}
	api.OpenAPI().AddOperation(&op)
	app.Add(op.Method, routed(op.Path), func(c *fiber.Ctx) error {
		if err := s.admit(c, &op); err != nil {
			return err
		}
		return handler(c)
	})
}

// guard is the door of the described operations.
func (s *Server) guard(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		c := humafiber.Unwrap(ctx)
		if err := s.admit(c, ctx.Operation()); err != nil {
			status, detail := told(c, err)
			_ = huma.WriteErr(api, ctx, status, detail) // fails only where the client is gone
			return
		}
		next(huma.WithContext(ctx, c.UserContext()))
	}
}

// admit lets a request in or says why not: who asks, by session cookie or bearer token, whether a session's changing
// request carries its CSRF token, the operation's role, and not too many at once. The request's context then knows the person.
func (s *Server) admit(c *fiber.Ctx, op *huma.Operation) error {
	needed, ok := op.Metadata[roleNeeded].(people.Role)
	if !ok {
		return fmt.Errorf("operation %s states no role", op.OperationID)
	}
	if needed == people.Anybody {
		return nil
	}
	p, byToken, err := s.whoAsks(c.UserContext(), c.Cookies(sessionCookie), c.Get(fiber.HeaderAuthorization))
	switch {
	case errors.Is(err, people.ErrUnknown):
		return fiber.NewError(fiber.StatusUnauthorized, sentence(err.Error()))
	case err != nil:
		return err
	case !byToken && !isRead(op.Method) && subtle.ConstantTimeCompare([]byte(c.Get(csrfHeader)), []byte(p.CSRF)) != 1:
		return errCSRF
	case !p.Role.May(needed):
		return fiber.NewError(fiber.StatusForbidden, fmt.Sprintf("This needs the role %s; you are %s.", needed, p.Role))
	case byToken && op.Metadata[sessionNeeded] == true:
		return errSession
	}
	if err := s.paces.take(c, p.ID, op.OperationID); err != nil {
		return err
	}
	c.SetUserContext(context.WithValue(c.UserContext(), personKey{}, p))
	return nil
}

// whoAsks finds a person by the bearer token of an Authorization header (RFC 6750, section 2.1), or by session. people.ErrUnknown
// where neither is good.
func (s *Server) whoAsks(ctx context.Context, session, authorization string) (p people.Person, byToken bool, err error) {
	if token, ok := strings.CutPrefix(authorization, "Bearer "); ok {
		p, err = s.Register.ByToken(ctx, token)
		return p, true, err
	}
	p, err = s.Register.BySession(ctx, session)
	return p, false, err
}

// routed writes a described path as the router wants it: {id} as :id.
func routed(path string) string { return strings.NewReplacer("{", ":", "}", "").Replace(path) }

// checkDoors returns an error for an operation that states no role, and for an address under /api that no operation
// describes: neither may be served.
func checkDoors(app *fiber.App, api huma.API) error {
	var missing []string
	described := map[string]bool{}
	for path, item := range api.OpenAPI().Paths {
		for method, op := range map[string]*huma.Operation{http.MethodGet: item.Get, http.MethodPost: item.Post, http.MethodPut: item.Put,
			http.MethodPatch: item.Patch, http.MethodDelete: item.Delete, http.MethodHead: item.Head, http.MethodOptions: item.Options} {
			if op == nil {
				continue
			}
			described[method+" "+routed(path)] = true
			if _, ok := op.Metadata[roleNeeded].(people.Role); !ok {
				missing = append(missing, method+" "+path)
			}
		}
	}
	for _, r := range app.GetRoutes(true) {
		if strings.HasPrefix(r.Path, "/api/") && !described[r.Method+" "+r.Path] && !isDescription(r.Path) {
			missing = append(missing, r.Method+" "+r.Path)
		}
	}
	if len(missing) > 0 {
		slices.Sort(missing)
		return fmt.Errorf("operations that state no role: %s", strings.Join(missing, ", "))
	}
	return nil
}

// isDescription tells the addresses at which the interface describes itself, which anybody may read.
func isDescription(path string) bool {
	return path == "/api/docs" || strings.HasPrefix(path, "/api/openapi") || strings.HasPrefix(path, "/api/schemas/")
}

func isRead(method string) bool {
	return method == fiber.MethodGet || method == fiber.MethodHead || method == fiber.MethodOptions
}

// sentence makes an error's words one: a capital first, a full stop last.
func sentence(text string) string {
	if text == "" {
		return text
	}
	return strings.ToUpper(text[:1]) + strings.TrimSuffix(text[1:], ".") + "."
}
