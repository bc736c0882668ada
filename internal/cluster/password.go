package cluster

import (
	"bytes"
	"crypto/rand"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
)

// hba lets nobody in but the program, over loopback, with the password. Source: PostgreSQL 15, 21.1, The pg_hba.conf File.
const hba = "# Written by ambrosa at each start.\nhost all ambrosa 127.0.0.1/32 scram-sha-256\n"

// passwordFile is where the password of a folder's server is kept, for the user of this program alone.
func passwordFile(asked string) string { return asked + ".password" }

// secure returns the server's password, and sets one where there is none yet; the server does not run meanwhile. Who may
// connect is written again each time, so that an older folder is closed too.
func (c *Cluster) secure(asked string, user *syscall.Credential) (string, error) {
	password, err := os.ReadFile(passwordFile(asked))
	if err == nil {
		err = os.Chmod(passwordFile(asked), 0o600)
	} else if os.IsNotExist(err) {
		password = []byte(rand.Text())
		if err = c.setPassword(string(password)); err == nil {
			err = keep(passwordFile(asked), password)
		}
	}
	if err != nil {
		return "", fmt.Errorf("the database's password: %w", err)
	}
	path := filepath.Join(c.Folder, "pg_hba.conf")
	if err := os.WriteFile(path, []byte(hba), 0o600); err != nil {
		return "", err
	}
	if user != nil {
		if err := os.Chown(path, int(user.Uid), int(user.Gid)); err != nil {
			return "", err
		}
	}
	return strings.TrimSpace(string(password)), nil
}

// setPassword sets it with the server in single-user mode, so that no door stands open for it.
func (c *Cluster) setPassword(password string) error {
	single := c.run("postgres", "--single", "-D", c.Folder, "-c", "password_encryption=scram-sha-256", "postgres")
	single.Stdin = strings.NewReader("ALTER ROLE ambrosa PASSWORD '" + password + "';\n")
	if out, err := single.CombinedOutput(); err != nil || bytes.Contains(out, []byte("ERROR")) {
		return fmt.Errorf("setting it: %w: %s", err, bytes.TrimSpace(out))
	}
	return nil
}

// keep writes a file whole or not at all, readable by this user alone.
func keep(path string, content []byte) error {
	f, err := os.OpenFile(path+".new", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer f.Close()
	if _, err := f.Write(append(content, '\n')); err != nil {
		return err
	}
	if err := f.Sync(); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}
