package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"

	"github.com/spf13/cobra"
)

// drives are the wishes of a look at a drive.
type drives struct {
	filter, hostKey, to string
}

func driveCommand() *cobra.Command {
	var w drives
	list := &cobra.Command{
		Use:   "list ADDRESS [--filter GLOB]",
		Short: "Write the files of a drive as JSON objects, one a line",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return w.each(cmd.Context(), args[0], func(_ *drive.Drive, f drive.File) (string, error) { return "", nil })
		},
	}
	get := &cobra.Command{
		Use:   "get ADDRESS --to FOLDER [--filter GLOB]",
		Short: "Copy the files of a drive into a folder, in the folders that they are in",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return w.each(cmd.Context(), args[0], func(d *drive.Drive, f drive.File) (string, error) { return w.get(cmd.Context(), d, f) })
		},
	}
	for _, c := range []*cobra.Command{list, get} {
		c.Flags().StringVar(&w.filter, "filter", "", "only paths that match: * stays in a folder, ** crosses folders")
		c.Flags().StringVar(&w.hostKey, "host-key", "", "the key that an SFTP host must have, SHA256:…")
	}
	get.Flags().StringVar(&w.to, "to", "", "the folder")
	_ = get.MarkFlagRequired("to") // fails only for a flag that is not there
	c := &cobra.Command{
		Use:   "drive",
		Short: "Look into drives, and copy from them; needs no database",
		Long: "Look into drives, and copy from them; needs no database.\n" +
			"ADDRESS is one of webdav://user@host:port/folder (webdavs:// for https), http(s)://host/folder/, sftp://, ftp://, smb://host/share/folder,\n" +
			"s3://KEYID@bucket/prefix?endpoint=…, file:///folder. The secret is taken from AMBROSA_SECRET, else, where the address names a user,\n" +
			"from the first line of standard input. Exit 1 where files failed, 2 where the drive can't be read.",
	}
	c.AddCommand(list, get)
	return c
}

// driveLine is what is written of a file.
type driveLine struct {
	Path     string  `json:"path"`
	Bytes    *int64  `json:"bytes"`
	Modified *string `json:"modified"`
	Sum      *string `json:"sum"`
}

// each does something with every file that is meant and writes a line for each that went well; to is where it is now.
func (w *drives) each(ctx context.Context, address string, use func(*drive.Drive, drive.File) (to string, err error)) error {
	a, err := drive.Parse(address)
	if err != nil {
		return usage("%v", err)
	}
	secret, err := secretFor(a)
	if err != nil {
		return err
	}
	spec := a.Spec(secret)
	spec.HostKey = w.hostKey
	d, err := drive.Open(ctx, spec, drive.Options{Door: fetch.Everywhere(), Seen: func(fingerprint string) {
		fmt.Fprintf(os.Stderr, "%s has the key %s; --host-key %s takes no other\n", a, fingerprint, fingerprint)
	}})
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, a, err)
	}
	defer d.Close()
	out := bufio.NewWriter(os.Stdout)
	lines := newLines(out)
	glob, failed := drive.NewGlob(w.filter), false
	wrong := func(path string, err error) {
		failed = true
		fmt.Fprintf(os.Stderr, "%s: %q: %v\n", a, path, err)
	}
	err = d.Each(ctx, "", func(f drive.File) error {
		if !glob.Matches(f.Path) {
			return nil
		}
		to, err := use(d, f)
		if err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			wrong(f.Path, err)
			return nil
		}
		if to == "" {
			return lines.Encode(lineOf(f))
		}
		return lines.Encode(struct {
			driveLine
			To string `json:"to"`
		}{lineOf(f), to})
	}, wrong)
	if flushed := out.Flush(); err == nil {
		err = flushed
	}
	switch {
	case err != nil:
		return fmt.Errorf("%w: %s: %w", errUnreadable, a, err)
	case failed:
		return errSome
	}
	return nil
}

func lineOf(f drive.File) driveLine {
	l := driveLine{Path: f.Path}
	if f.Bytes >= 0 {
		l.Bytes = &f.Bytes
	}
	if !f.Modified.IsZero() {
		l.Modified = new(f.Modified.Format(time.RFC3339))
	}
	if f.Sum != "" {
		l.Sum = &f.Sum
	}
	return l
}

// secretFor is the secret of whom an address names.
func secretFor(a drive.Address) (string, error) {
	if secret := os.Getenv("AMBROSA_SECRET"); secret != "" || a.User == "" {
		return secret, nil
	}
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return "", err
	}
	return strings.TrimRight(line, "\r\n"), nil
}

// errPath is returned for a path that leads out of the folder.
var errPath = errors.New("its path leads out of the folder, and it is not copied")

// get copies a file below the folder, beside its place first: what stands there is whole.
func (w *drives) get(ctx context.Context, d *drive.Drive, f drive.File) (to string, err error) {
	if !filepath.IsLocal(filepath.FromSlash(f.Path)) || strings.ContainsRune(f.Path, 0) {
		return "", errPath
	}
	to = filepath.Join(w.to, filepath.FromSlash(f.Path))
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return "", err
	}
	from, err := d.Open(ctx, f)
	if err != nil {
		return "", err
	}
	defer from.Close()
	part, err := os.CreateTemp(filepath.Dir(to), ".part-*")
	if err != nil {
		return "", err
	}
	defer os.Remove(part.Name()) // it has another name by then where it is whole
	n, err := io.Copy(part, from)
	if err := errors.Join(err, part.Close()); err != nil {
		return "", d.Plain(err)
	}
	if f.Bytes >= 0 && n != f.Bytes {
		return "", fmt.Errorf("%d bytes came of %d", n, f.Bytes)
	}
	if !f.Modified.IsZero() {
		if err := os.Chtimes(part.Name(), f.Modified, f.Modified); err != nil {
			return "", err
		}
	}
	if err := os.Chmod(part.Name(), 0o644); err != nil {
		return "", err
	}
	return to, os.Rename(part.Name(), to)
}
