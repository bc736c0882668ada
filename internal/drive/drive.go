// Package drive reaches drives, folders on servers and in clouds, through the backends of rclone used as a library. Nothing is read from or
// written to a configuration file of that library.
package drive

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maps"
	"net"
	"sync"
	"time"

	_ "github.com/rclone/rclone/backend/drive"
	_ "github.com/rclone/rclone/backend/dropbox"
	_ "github.com/rclone/rclone/backend/ftp"
	_ "github.com/rclone/rclone/backend/http"
	_ "github.com/rclone/rclone/backend/local"
	_ "github.com/rclone/rclone/backend/onedrive"
	_ "github.com/rclone/rclone/backend/s3"
	_ "github.com/rclone/rclone/backend/sftp"
	_ "github.com/rclone/rclone/backend/smb"
	_ "github.com/rclone/rclone/backend/webdav"
	"github.com/rclone/rclone/fs"
	"github.com/rclone/rclone/fs/config/configmap"
	"github.com/rclone/rclone/fs/config/obscure"
	"github.com/rclone/rclone/fs/hash"
	"github.com/rclone/rclone/fs/list"
	"github.com/rclone/rclone/fs/walk"
)

var (
	// ErrNoAnswer is returned where the host does not answer.
	ErrNoAnswer = errors.New("the host does not answer")
	// ErrSignIn is returned where the name or the secret is wrong.
	ErrSignIn = errors.New("the name or the secret is wrong")
	// ErrHostKey is returned where the host has another key than it must have.
	ErrHostKey = errors.New("the host has another key")
	// ErrNoFolder is returned where the folder is not there.
	ErrNoFolder = errors.New("the folder is not there")
	// ErrCertificate is returned where the host's certificate is not trusted; the error tells its fingerprint.
	ErrCertificate = errors.New("the host's certificate is not trusted")
	// ErrDrive is returned for what else a drive answers.
	ErrDrive = errors.New("the drive can't be read")
)

const (
	// deepest is how deep folders are looked into: one that lists itself within itself ends there.
	deepest = 64
	// answer is how long a host may take to answer.
	answer = 20 * time.Second
	// attempts are how often a request is tried.
	attempts = 3
)

// File is a file of a drive.
type File struct {
	Path     string // below the drive's folder, with forward slashes
	Bytes    int64  // -1 where nobody knows
	Modified time.Time
	Sum      string // md5:…; empty where the drive does not have it at hand
	object   fs.Object
}

// Spec says which drive, and how it is reached.
type Spec struct {
	Kind    string            // a Protocol's
	Values  map[string]string // of its fields
	Secrets map[string]string // of its secret fields
	Root    string            // the folder
	HostKey string            // of SFTP: SHA256:…; empty for any, which is then told to Options.Seen
	// Certificate is the fingerprint of a certificate that is trusted though nobody vouches for it, as CertificatePrint tells it.
	Certificate string
}

// Dialer connects to what is outside: fetch.Door, or what stands before one.
type Dialer interface {
	Dial(ctx context.Context, network, address string) (net.Conn, error)
}

// Drive is a folder that can be read.
type Drive struct {
	Spec    Spec
	fs      fs.Fs
	route   *route
	name    string       // of the route
	forward net.Listener // nil where the route does
	spoken  string       // host:port that is spoken to in TLS by us
}

// Options are how a drive is reached.
type Options struct {
	Door Dialer
	// Seen is told the key of a host that no key was given for; nil for nobody.
	Seen func(fingerprint string)
}

var quiet sync.Once

// Open reaches a drive, until Close. Some kinds are asked for the first time when they are listed. Errors: ErrNoAnswer, ErrSignIn,
// ErrHostKey, ErrCertificate, ErrNoFolder, ErrDrive, and fetch.ErrRefused.
func Open(ctx context.Context, spec Spec, o Options) (*Drive, error) {
	quiet.Do(func() { fs.SetLogger(slog.DiscardHandler) }) // what it says may hold secrets; errors come back all the same
	info, err := fs.Find(spec.Kind)
	if err != nil {
		return nil, fmt.Errorf("%w: there is no protocol %q", ErrDrive, spec.Kind)
	}
	d := &Drive{Spec: spec, route: &route{}}
	d.route.dial = d.dialer(o.Door)
	var server string
	if d.name, server, err = d.route.open(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDrive, err)
	}
	values, err := d.values(ctx, info, o, d.name+":"+d.route.secret+"@"+server)
	if err == nil {
		d.fs, err = info.NewFs(d.settings(ctx), "drive", d.Spec.Root,
			configmap.New().AddGetter(values, configmap.PriorityNormal).AddGetter(defaults{info.Options}, configmap.PriorityDefault))
		err = d.Plain(err)
	}
	if err != nil {
		d.Close()
		return nil, err
	}
	return d, nil
}

// Close ends the drive's connections.
func (d *Drive) Close() {
	if d.fs != nil {
		if end := d.fs.Features().Shutdown; end != nil {
			_ = end(context.Background()) // nothing is left to lose
		}
	}
	closeRoute(d.name)
	if d.forward != nil {
		d.forward.Close()
	}
}

// defaults are what a backend takes where nothing is said.
type defaults struct{ options fs.Options }

func (d defaults) Get(key string) (value string, ok bool) {
	o := d.options.Get(key)
	if o == nil {
		return "", false
	}
	return fmt.Sprint(o.Default), true
}

// settings give the library its limits and the way out.
func (d *Drive) settings(ctx context.Context) context.Context {
	ctx, c := fs.AddConfig(ctx)
	c.LowLevelRetries, c.ConnectTimeout, c.Timeout, c.UserAgent = attempts, fs.Duration(answer), fs.Duration(answer), "Ambrosa"
	ways.mu.Lock()
	defer ways.mu.Unlock()
	c.HTTPProxy = "socks5://" + d.name + ":" + d.route.secret + "@" + ways.address
	return ctx
}

// dialer dials for the drive; where a certificate is trusted by its fingerprint, it speaks TLS in the library's place.
func (d *Drive) dialer(door Dialer) func(context.Context, string) (net.Conn, error) {
	return func(ctx context.Context, address string) (net.Conn, error) {
		c, err := door.Dial(ctx, "tcp", address)
		if err != nil || address != d.spoken {
			return c, err
		}
		return trusted(ctx, c, address, d.Spec.Certificate)
	}
}

// values are what the backend of a kind is told.
func (d *Drive) values(ctx context.Context, info *fs.RegInfo, o Options, server string) (configmap.Simple, error) {
	values := configmap.Simple{}
	maps.Copy(values, d.Spec.Values)
	for name, secret := range d.Spec.Secrets {
		if of := info.Options.Get(name); of != nil && of.IsPassword && secret != "" {
			hidden, err := obscure.Obscure(secret)
			if err != nil {
				return nil, fmt.Errorf("%w: %w", ErrDrive, err)
			}
			secret = hidden
		}
		values[name] = secret
	}
	maps.DeleteFunc(values, func(_, v string) bool { return v == "" })
	set := func(name, value string) {
		if values[name] == "" {
			values[name] = value
		}
	}
	switch d.Spec.Kind {
	case "webdav":
		set("vendor", "other")
		set("pacer_min_sleep", "100us") // how many ask at once is limited already; the library's own 10 ms a request are for all of them together
		fallthrough
	case "http":
		values["url"] = d.speak(values["url"])
	case "sftp":
		key, err := d.hostKey(ctx, o)
		if err != nil {
			return nil, err
		}
		values["host_keys"], values["disable_hashcheck"], values["shell_type"], values["socks_proxy"] = key, "true", "none", server
		set("user", "anonymous")
	case "ftp":
		values["socks_proxy"] = server
		if values["user"] == "" {
			values["user"] = "anonymous"
			if values["pass"] == "" {
				values["pass"], _ = obscure.Obscure("anonymous@example")
			}
		}
	case "smb":
		set("user", "guest")
		var err error
		if d.forward, err = d.route.forward(net.JoinHostPort(values["host"], cmp.Or(values["port"], "445"))); err != nil {
			return nil, fmt.Errorf("%w: %w", ErrDrive, err)
		}
		values["host"], values["port"], _ = net.SplitHostPort(d.forward.Addr().String())
	case "s3":
		set("provider", "Other")
		set("force_path_style", "true")
		values["no_check_bucket"], values["env_auth"] = "true", "false"
		if values["endpoint"] != "" {
			values["endpoint"] = d.speak(values["endpoint"])
		}
	case "local":
		values["nounc"] = "true"
	}
	return values, nil
}

// Each tells the files below a folder of the drive, folder by folder; what can't be read of a folder below is told to wrong, and the rest goes
// on. Memory grows with the largest folder. Errors: those of Open where the folder itself can't be read, and the visitor's.
func (d *Drive) Each(ctx context.Context, below string, visit func(File) error, wrong func(path string, err error)) error {
	ctx = d.settings(ctx)
	var stopped error
	err := walk.Walk(ctx, d.fs, below, true, deepest, func(folder string, entries fs.DirEntries, err error) error {
		if err != nil {
			if folder == below {
				return err
			}
			wrong(folder, d.Plain(err))
			return nil
		}
		for _, e := range entries {
			o, isFile := e.(fs.Object)
			if !isFile {
				continue
			}
			if stopped = visit(d.file(ctx, o)); stopped != nil {
				return stopped
			}
		}
		return nil
	})
	if stopped != nil {
		return stopped
	}
	return d.Plain(err)
}

func (d *Drive) file(ctx context.Context, o fs.Object) File {
	f := File{Path: o.Remote(), Bytes: o.Size(), object: o}
	if d.fs.Precision() != fs.ModTimeNotSupported {
		f.Modified = o.ModTime(ctx).UTC()
	}
	if d.fs.Hashes().Contains(hash.MD5) && !d.fs.Features().SlowHash {
		if sum, err := o.Hash(ctx, hash.MD5); err == nil && sum != "" {
			f.Sum = "md5:" + sum
		}
	}
	return f
}

// Open reads a file. Errors: those of Open.
func (d *Drive) Open(ctx context.Context, f File) (io.ReadCloser, error) {
	r, err := f.object.Open(d.settings(ctx))
	return r, d.Plain(err)
}

// Find looks a file up by its path. Errors: those of Open.
func (d *Drive) Find(ctx context.Context, path string) (File, error) {
	o, err := d.fs.NewObject(d.settings(ctx), path)
	if err != nil {
		return File{}, d.Plain(err)
	}
	return d.file(ctx, o), nil
}

// Entry is a file or a folder within a folder.
type Entry struct {
	File
	Folder bool
}

// Look lists one folder, not what is below it. Errors: those of Open.
func (d *Drive) Look(ctx context.Context, folder string) ([]Entry, error) {
	found, err := list.DirSorted(d.settings(ctx), d.fs, true, folder)
	if err != nil {
		return nil, d.Plain(err)
	}
	all := make([]Entry, 0, len(found))
	for _, e := range found {
		switch e := e.(type) {
		case fs.Object:
			all = append(all, Entry{File: d.file(ctx, e)})
		case fs.Directory:
			all = append(all, Entry{File: File{Path: e.Remote(), Bytes: -1}, Folder: true})
		}
	}
	return all, nil
}
