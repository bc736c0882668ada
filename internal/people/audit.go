package people

import (
	"context"
	"encoding/json"

	"ambrosa/internal/store/query"
)

// What the audit list tells of, by code.
const (
	signedIn        = "signed_in"
	added           = "person_added"
	roleChanged     = "role_changed"
	sessionsEnded   = "sessions_ended"
	deactivated     = "person_deactivated"
	anonymised      = "person_anonymised"
	activated       = "person_activated"
	passwordChanged = "password_changed"
	tokenMade       = "token_made"
	tokenRevoked    = "token_revoked"
)

// audit notes what a person did that concerns who may do what. by is 0 where it was done on the command line.
func audit(ctx context.Context, q *query.Queries, by, subject int64, code string, data map[string]any) error {
	kept, err := json.Marshal(data)
	if err != nil {
		return err
	}
	if data == nil {
		kept = []byte("{}")
	}
	row := query.AddAuditParams{Code: code, Data: kept}
	if by != 0 {
		row.PersonID = &by
	}
	if subject != 0 {
		row.SubjectID = &subject
	}
	return q.AddAudit(ctx, row)
}
