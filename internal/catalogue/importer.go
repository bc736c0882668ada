package catalogue

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"ambrosa/core/message"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tablefiles"

	"github.com/jackc/pgx/v5"
)

// ErrLarge is returned for a table larger than it may be.
var ErrLarge = fmt.Errorf("a table may have at most %s", message.Bytes(largestTable))

const largestTable = 256 << 20

// ImportWork is the kind of work that making a table's plan is.
const ImportWork = "import"

// Importer takes products tables and makes their plans in the background. Folder holds tables until then; instances that share a
// database share it.
type Importer struct {
	Store  *store.Store
	Ledger *ledger.Ledger
	Jobs   *jobs.Jobs
	Folder string
}

// Register registers an importer's work.
func (im *Importer) Register() {
	im.Jobs.Register(jobs.Kind{Name: ImportWork, Unit: "rows", Workers: 1, Work: im.plan, Trouble: tableTrouble, Topic: "import"})
	im.registerClearing()
}

func (im *Importer) file(id int64) string {
	return filepath.Join(im.Folder, fmt.Sprintf("table-%d", id))
}

// Bring keeps a table and asks for its plan; it returns the import's number. What can be said of the table by its beginning is said
// at once. Errors: those of Check, and ErrLarge.
func (im *Importer) Bring(ctx context.Context, name string, table io.Reader, person int64) (id int64, err error) {
	if name == "" {
		name = "Products table"
	}
	f, err := os.CreateTemp(im.Folder, "table-*.part")
	if err != nil {
		return 0, err
	}
	defer os.Remove(f.Name()) // it has another name by then where it is kept
	defer f.Close()
	n, err := io.Copy(f, io.LimitReader(table, largestTable+1))
	if err != nil {
		return 0, err
	}
	if n > largestTable {
		return 0, ErrLarge
	}
	if err := Check(f.Name()); err != nil {
		return 0, err
	}
	err = im.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if id, err = q.AddImport(ctx, query.AddImportParams{Name: name, CreatedBy: person}); err != nil {
			return err
		}
		if err := os.Rename(f.Name(), im.file(id)); err != nil {
			return err
		}
		return im.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: ImportWork, Subject: id, Title: name, Person: person})
	})
	return id, err
}

// plan makes an import's plan, unless it is there. The plan and the end of the work are kept together, so that one made by a
// process that died is not kept twice.
func (im *Importer) plan(ctx context.Context, id int64) error {
	of, err := im.Store.ImportByID(ctx, id)
	if err != nil {
		return err
	}
	draft, changes, err := im.draft(ctx, of.Name, im.file(id), of.CreatedBy)
	if errors.Is(err, fs.ErrNotExist) {
		return &message.Error{Message: message.New("bytes_gone", "path", of.Name), Of: err}
	}
	if err != nil {
		return err
	}
	err = im.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		plan, err := im.Ledger.KeepIn(ctx, q, draft, changes)
		if err != nil && !errors.Is(err, ledger.ErrNothingToDo) {
			return err
		}
		if err == nil {
			if err := q.SetImportPlan(ctx, query.SetImportPlanParams{ID: id, PlanID: &plan}); err != nil {
				return err
			}
		}
		return im.Jobs.Finish(ctx, q, tx, ImportWork, id)
	})
	if err == nil {
		os.Remove(im.file(id))
	}
	return err
}

// tableTrouble says what an error of reading a table means: trying again does not help.
func tableTrouble(err error) jobs.Trouble {
	if m, ok := message.Of(err); ok {
		return jobs.Trouble{Says: []message.Message{m}, Final: true}
	}
	if code := tablefiles.Code(err); code != "" {
		return jobs.Trouble{Says: []message.Message{{Code: code}}, Final: true}
	}
	return jobs.Trouble{}
}
