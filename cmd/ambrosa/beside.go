package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
)

// writeBeside writes a file under another name and gives it its own when all of it is there, so that no half of one ever stands there.
// errUnreadable where its folder can't be written to.
func writeBeside(path string, write func(*os.File) error) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".ambrosa-*")
	if err != nil {
		return fmt.Errorf("%w: %w", errUnreadable, err)
	}
	defer os.Remove(f.Name()) // it has another name by then where all went well
	defer f.Close()
	if err := write(f); err != nil {
		return err
	}
	if err := errors.Join(f.Chmod(0o644), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), path)
}
