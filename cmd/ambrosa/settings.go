package main

import (
	"fmt"
	"net"
	"os"
	"strconv"
	"strings"

	"ambrosa/internal/fetch"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/program"
	"ambrosa/web"

	"github.com/spf13/pflag"
)

// settings are the flags of every command that opens the service; each has an environment variable too.
type settings struct {
	program.Settings
	host    string
	port    int
	log     string
	proxies []string
	allow   []string
	wrong   []string // environment variables that say nothing usable
}

func (s *settings) flags(f *pflag.FlagSet) {
	s.Web = web.Files()
	s.Key = env("AMBROSA_KEY", "") // no flag: others on the machine see those
	f.StringVar(&s.Data, "data", env("AMBROSA_DATA", "data"), "folder of everything that is kept")
	f.StringVar(&s.Database, "database", env("AMBROSA_DATABASE_URL", ""), "address of a PostgreSQL server; without it, a private one in the data folder")
	f.StringVar(&s.Pictures, "pictures", env("AMBROSA_PICTURES", ""), "folder or bucket (s3://…) of the pictures; without it, one in the data folder")
	f.StringVar(&s.host, "host", env("AMBROSA_HOST", "127.0.0.1"), "address to listen on")
	f.IntVar(&s.port, "port", envInt(s, "PORT", 8080), "port to listen on")
	f.BoolVar(&s.Secure, "secure", env("AMBROSA_SECURE", "") != "", "the address before it is https: keep cookies to it")
	f.StringSliceVar(&s.proxies, "trusted-proxies", envList("AMBROSA_TRUSTED_PROXIES"), "networks of proxies whose X-Forwarded-For counts, such as 10.0.0.0/8")
	f.StringSliceVar(&s.allow, "allow-networks", envList("AMBROSA_ALLOW_NETWORKS"), "networks of this site that addresses from outside may lead to, such as 10.0.0.0/8")
	f.StringSliceVar(&s.Folders, "folders", envList("AMBROSA_FOLDERS"), "folders of this machine below which drives may be")
	f.StringVar(&s.Browser, "browser", env("AMBROSA_BROWSER", ""), "a Chromium that shows pages which need their scripts, such as /usr/bin/chromium; without it none does; not as root")
	f.StringVar(&s.log, "log", env("AMBROSA_LOG", "info"), "what is logged: debug (every request), info, warn or error")
	d := source.DefaultLimits
	f.IntVar(&s.Limits.Entries, "max-entries", envInt(s, "AMBROSA_MAX_ENTRIES", d.Entries), "files in one archive")
	f.Int64Var(&s.Limits.Bytes, "max-bytes", envInt(s, "AMBROSA_MAX_BYTES", d.Bytes), "bytes of one archive, unpacked")
	f.Int64Var(&s.Limits.Ratio, "max-ratio", envInt(s, "AMBROSA_MAX_RATIO", d.Ratio), "bytes unpacked for each byte packed")
	f.Int64Var(&s.Limits.EntryBytes, "max-file-bytes", envInt(s, "AMBROSA_MAX_FILE_BYTES", d.EntryBytes), "bytes of one file")
	f.Int64Var(&s.Limits.Pixels, "max-pixels", envInt(s, "AMBROSA_MAX_PIXELS", d.Pixels), "width times height of a picture")
	f.Int64Var(&s.Limits.Upload, "max-upload-bytes", envInt(s, "AMBROSA_MAX_UPLOAD_BYTES", d.Upload), "bytes of one upload")
	f.Int64Var(&s.Limits.Reserve, "reserve-bytes", envInt(s, "AMBROSA_RESERVE_BYTES", d.Reserve), "bytes of the disk that are kept free")
}

// check says what of the flags and variables can't be used. It is wrong usage.
func (s *settings) check() error {
	if len(s.wrong) > 0 {
		return usage("%s", strings.Join(s.wrong, "; "))
	}
	if s.port < 0 || s.port > 65535 {
		return usage("there is no port %d", s.port)
	}
	s.Site = "http://" + net.JoinHostPort(s.host, strconv.Itoa(s.port))
	proxies, err := fetch.ParseNetworks(s.proxies)
	if err != nil {
		return usage("trusted proxies: %v", err)
	}
	s.Proxies = proxies
	if s.Door.Allow, err = fetch.ParseNetworks(s.allow); err != nil {
		return usage("allowed networks: %v", err)
	}
	return setLog(s.log)
}

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}

func envList(name string) []string {
	if v := os.Getenv(name); v != "" {
		return strings.Split(v, ",")
	}
	return nil
}

// envInt reads a number; one that can't be read is told by check.
func envInt[T int | int64](s *settings, name string, otherwise T) T {
	text := os.Getenv(name)
	if text == "" {
		return otherwise
	}
	v, err := strconv.ParseInt(text, 10, 64)
	if err != nil || int64(T(v)) != v || v < 0 {
		s.wrong = append(s.wrong, fmt.Sprintf("%s=%s is no number", name, text))
		return otherwise
	}
	return T(v)
}
