package main

import (
	"os"
	"strconv"

	"ambrosa/internal/gather"
	"ambrosa/internal/service"
	"ambrosa/web"

	"github.com/spf13/pflag"
)

// settings are the flags of every command that opens the service; each has an environment variable too.
type settings struct {
	service.Settings
	host string
	port int
}

func (s *settings) flags(f *pflag.FlagSet) {
	s.Web = web.Files()
	f.StringVar(&s.Data, "data", env("AMBROSA_DATA", "data"), "folder of everything that is kept")
	f.StringVar(&s.Database, "database", env("AMBROSA_DATABASE_URL", ""), "address of a PostgreSQL server; without it, a private one in the data folder")
	f.StringVar(&s.Pictures, "pictures", env("AMBROSA_PICTURES", ""), "folder or bucket (s3://…) of the pictures; without it, one in the data folder")
	f.StringVar(&s.host, "host", env("AMBROSA_HOST", "127.0.0.1"), "address to listen on")
	f.IntVar(&s.port, "port", envInt("PORT", 8080), "port to listen on")
	f.BoolVar(&s.Secure, "secure", env("AMBROSA_SECURE", "") != "", "the address before it is https: keep cookies to it")
	d := gather.DefaultLimits
	f.IntVar(&s.Limits.Entries, "max-entries", envInt("AMBROSA_MAX_ENTRIES", d.Entries), "files in one archive")
	f.Int64Var(&s.Limits.Bytes, "max-bytes", envInt("AMBROSA_MAX_BYTES", d.Bytes), "bytes of one archive, unpacked")
	f.Int64Var(&s.Limits.Ratio, "max-ratio", envInt("AMBROSA_MAX_RATIO", d.Ratio), "bytes unpacked for each byte packed")
	f.Int64Var(&s.Limits.EntryBytes, "max-file-bytes", envInt("AMBROSA_MAX_FILE_BYTES", d.EntryBytes), "bytes of one file")
	f.Int64Var(&s.Limits.Pixels, "max-pixels", envInt("AMBROSA_MAX_PIXELS", d.Pixels), "width times height of a picture")
}

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}

func envInt[T int | int64](name string, otherwise T) T {
	if v, err := strconv.ParseInt(os.Getenv(name), 10, 64); err == nil {
		return T(v)
	}
	return otherwise
}
