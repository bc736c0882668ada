package cluster

import (
	"bytes"
	"context"
	"fmt"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"

	"github.com/jackc/pgx/v5"
)

// Tool runs one of PostgreSQL's programs, such as pg_dump, on a database. Its address goes by the environment, so that no
// password stands among the words that other users of this machine can read.
func Tool(ctx context.Context, database, program string, args ...string) error {
	config, err := pgx.ParseConfig(database)
	if err != nil {
		return fmt.Errorf("database address: %w", err)
	}
	bin, err := programs("")
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, program), args...)
	cmd.Env = append(os.Environ(), "PGHOST="+config.Host, "PGPORT="+strconv.Itoa(int(config.Port)), "PGUSER="+config.User, "PGPASSWORD="+config.Password,
		"PGDATABASE="+config.Database, "LC_ALL=C.UTF-8")
	if at, err := url.Parse(database); err == nil && at.Query().Get("sslmode") != "" {
		cmd.Env = append(cmd.Env, "PGSSLMODE="+at.Query().Get("sslmode"))
	}
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("%s: %w: %s", program, err, bytes.TrimSpace(out))
	}
	return nil
}
