// Package backup copies everything that is kept into a folder, also while the server runs, and brings it back: the database as
// it stood at one moment, the pictures, and the uploads that wait.
package backup

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/cluster"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrNotEmpty is returned for restoring over what is there.
	ErrNotEmpty = errors.New("the data folder is not empty; name another or empty it")
	// ErrIncomplete is returned for a folder that holds no backup, or one that was not finished.
	ErrIncomplete = errors.New("this folder holds no finished backup")
	// ErrDiffers is returned where what was restored is not what was backed up.
	ErrDiffers = errors.New("what was restored is not what was backed up")
)

// What lies in a backup's folder.
const (
	dumpFile     = "database.dump"
	picturesPart = "pictures"
	uploadsPart  = "uploads"
	manifestFile = "manifest.json"
)

// Manifest says what a backup holds. It is written last: without it a backup is not finished.
type Manifest struct {
	At       time.Time        `json:"at"`
	Rows     map[string]int64 `json:"rows"` // of each table
	Pictures int64            `json:"pictures"`
	Bytes    int64            `json:"bytes"` // of the pictures, derivatives included
	Uploads  int64            `json:"uploads"`
}

// From is what is backed up.
type From struct {
	Database string // its address
	Vault    *assets.Vault
	Uploads  string // folder
}

// Make backs up into a folder. Done again into the same, it copies only the pictures that came since. The database is copied as
// it stands at one moment; pictures are known by their content and never change, so that those copied later are the same.
func Make(ctx context.Context, from From, to string) (Manifest, error) {
	m := Manifest{At: time.Now().UTC()}
	if err := os.MkdirAll(to, 0o700); err != nil {
		return m, err
	}
	if err := os.Remove(filepath.Join(to, manifestFile)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return m, err
	}
	var err error
	if m.Rows, err = dump(ctx, from.Database, filepath.Join(to, dumpFile)); err != nil {
		return m, fmt.Errorf("the database: %w", err)
	}
	err = from.Vault.Each(ctx, func(key string, size int64) error {
		m.Pictures++
		m.Bytes += size
		path := filepath.Join(to, picturesPart, filepath.FromSlash(key))
		if info, err := os.Stat(path); err == nil && info.Size() == size {
			return nil
		}
		r, _, err := from.Vault.Open(ctx, key)
		if err != nil {
			return err
		}
		defer r.Close()
		return write(path, r)
	})
	if err != nil {
		return m, fmt.Errorf("the pictures: %w", err)
	}
	if m.Uploads, err = copyFolder(from.Uploads, filepath.Join(to, uploadsPart)); err != nil {
		return m, fmt.Errorf("the uploads: %w", err)
	}
	text, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		return m, err
	}
	return m, write(filepath.Join(to, manifestFile), strings.NewReader(string(text)+"\n"))
}

// dump writes the database as it stands at one moment, and counts its rows at the same.
func dump(ctx context.Context, database, to string) (rows map[string]int64, err error) {
	conn, err := pgx.Connect(ctx, database)
	if err != nil {
		return nil, err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	tx, err := conn.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return nil, err
	}
	defer tx.Rollback(context.WithoutCancel(ctx))
	var snapshot string
	if err := tx.QueryRow(ctx, "SELECT pg_export_snapshot()").Scan(&snapshot); err != nil {
		return nil, err
	}
	if rows, err = count(ctx, tx); err != nil {
		return nil, err
	}
	part := to + ".part"
	if err := cluster.Tool(ctx, database, "pg_dump", "--format=custom", "--no-owner", "--no-privileges", "--snapshot="+snapshot, "--file="+part); err != nil {
		return nil, err
	}
	return rows, os.Rename(part, to)
}

// count counts the rows of every table of our own; the queue's come and go.
func count(ctx context.Context, tx pgx.Tx) (map[string]int64, error) {
	found, err := tx.Query(ctx, "SELECT relname FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace AND relname NOT LIKE 'river%' ORDER BY relname")
	if err != nil {
		return nil, err
	}
	tables, err := pgx.CollectRows(found, pgx.RowTo[string])
	if err != nil {
		return nil, err
	}
	rows := map[string]int64{}
	for _, table := range tables {
		var n int64
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+pgx.Identifier{table}.Sanitize()).Scan(&n); err != nil {
			return nil, err
		}
		rows[table] = n
	}
	return rows, nil
}

// Read reads what a backup's folder holds. ErrIncomplete where that is none.
func Read(folder string) (m Manifest, err error) {
	text, err := os.ReadFile(filepath.Join(folder, manifestFile))
	if errors.Is(err, os.ErrNotExist) {
		return m, fmt.Errorf("%w: %s", ErrIncomplete, folder)
	}
	if err == nil {
		err = json.Unmarshal(text, &m)
	}
	return m, err
}

// Restore brings a backup into an empty data folder, whose database and pictures are made as the server makes them.
func Restore(ctx context.Context, from, data string) (m Manifest, err error) {
	if m, err = Read(from); err != nil {
		return m, err
	}
	if there, err := os.ReadDir(data); err == nil && len(there) > 0 {
		return m, fmt.Errorf("%w: %s", ErrNotEmpty, data)
	}
	if err := os.MkdirAll(data, 0o755); err != nil {
		return m, err
	}
	c, err := cluster.Start(ctx, filepath.Join(data, "postgres"), cluster.Options{})
	if err != nil {
		return m, err
	}
	defer c.Stop()
	if err := cluster.Tool(ctx, c.URL, "pg_restore", "--no-owner", "--exit-on-error", "--single-transaction", "--dbname=ambrosa", filepath.Join(from, dumpFile)); err != nil {
		return m, fmt.Errorf("the database: %w", err)
	}
	for part, want := range map[string]int64{picturesPart: m.Pictures, uploadsPart: m.Uploads} {
		got, err := copyFolder(filepath.Join(from, part), filepath.Join(data, part))
		if err != nil {
			return m, fmt.Errorf("the %s: %w", part, err)
		}
		if got < want {
			return m, fmt.Errorf("%w: %d of %d %s", ErrDiffers, got, want, part)
		}
	}
	if err := rebase(filepath.Join(data, uploadsPart)); err != nil {
		return m, fmt.Errorf("the uploads: %w", err)
	}
	return m, same(ctx, c.URL, m)
}

// rebase has what is noted beside each upload name the folder that it lies in now: its bytes would go on in the old one.
func rebase(uploads string) error {
	uploads, err := filepath.Abs(uploads)
	if err != nil {
		return err
	}
	notes, err := filepath.Glob(filepath.Join(uploads, "*.info"))
	for _, note := range notes {
		var of map[string]any
		text, err := os.ReadFile(note)
		if err == nil {
			err = json.Unmarshal(text, &of)
		}
		if err != nil {
			return fmt.Errorf("%s: %w", filepath.Base(note), err)
		}
		of["Storage"] = map[string]string{"Type": "filestore", "Path": strings.TrimSuffix(note, ".info"), "InfoPath": note}
		if text, err = json.Marshal(of); err == nil {
			err = write(note, strings.NewReader(string(text)))
		}
		if err != nil {
			return err
		}
	}
	return err
}

// same compares the rows of what was restored with what was backed up.
func same(ctx context.Context, database string, m Manifest) error {
	conn, err := pgx.Connect(ctx, database)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	return pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		rows, err := count(ctx, tx)
		for table, want := range m.Rows {
			if err == nil && rows[table] != want {
				err = fmt.Errorf("%w: %d of %d rows of %s", ErrDiffers, rows[table], want, table)
			}
		}
		return err
	})
}

// copyFolder copies the files of a folder, but for those that are being written, and counts them.
func copyFolder(from, to string) (count int64, err error) {
	err = filepath.WalkDir(from, func(path string, d os.DirEntry, err error) error {
		if errors.Is(err, os.ErrNotExist) {
			return nil // it was taken in meanwhile, or nothing ever waited
		}
		if err != nil || d.IsDir() || strings.HasPrefix(d.Name(), "spool-") {
			return err
		}
		rel, err := filepath.Rel(from, path)
		if err != nil {
			return err
		}
		f, err := os.Open(path)
		if errors.Is(err, os.ErrNotExist) {
			return nil
		}
		if err != nil {
			return err
		}
		defer f.Close()
		count++
		return write(filepath.Join(to, rel), f)
	})
	return count, err
}

// write writes a file so that it is there whole or not at all.
func write(path string, from io.Reader) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	f, err := os.CreateTemp(filepath.Dir(path), ".part-*")
	if err != nil {
		return err
	}
	_, err = io.Copy(f, from)
	if err = errors.Join(err, f.Chmod(0o644), f.Sync(), f.Close()); err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return os.Rename(f.Name(), path)
}
