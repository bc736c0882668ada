// Package drive reaches drives, folders on servers and in clouds, through the backends of rclone used as a library. Nothing is read from or
// written to a configuration file of that library.
package drive

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"sync"
	"time"

	"ambrosa/internal/fetch"

	_ "github.com/rclone/rclone/backend/ftp"
	_ "github.com/rclone/rclone/backend/http"
	_ "github.com/rclone/rclone/backend/local"
	_ "github.com/rclone/rclone/backend/s3"
	_ "github.com/rclone/rclone/backend/sftp"
	_ "github.com/rclone/rclone/backend/smb"
	_ "github.com/rclone/rclone/backend/webdav"
	"github.com/rclone/rclone/fs"
	"github.com/rclone/rclone/fs/config/configmap"
	"github.com/rclone/rclone/fs/config/obscure"
	"github.com/rclone/rclone/fs/hash"
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

// Drive is a folder that can be read.
type Drive struct {
	Address Address
	secret  string
	fs      fs.Fs
}

// Options are how a drive is reached.
type Options struct {
	Door    *fetch.Door // through which a host is asked for its key
	Secret  string      // password, or secret key
	HostKey string      // of SFTP: SHA256:…; empty for any, which is then told to Seen
	// Seen is told the key of a host that no key was given for; nil for nobody.
	Seen func(fingerprint string)
}

var quiet sync.Once

// Open reaches a drive. Some kinds are asked for the first time when they are listed. Errors: ErrNoAnswer, ErrSignIn, ErrHostKey, ErrNoFolder,
// ErrDrive.
func Open(ctx context.Context, a Address, o Options) (*Drive, error) {
	quiet.Do(func() { fs.SetLogger(slog.DiscardHandler) }) // what it says may hold secrets; errors come back all the same
	ctx = settings(ctx)
	info, err := fs.Find(a.Kind)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDrive, err)
	}
	d := &Drive{Address: a, secret: o.Secret}
	values, err := d.values(ctx, o)
	if err != nil {
		return nil, err
	}
	if d.fs, err = info.NewFs(ctx, "drive", a.Root, configmap.New().AddGetter(values, configmap.PriorityNormal).AddGetter(defaults{info.Options}, configmap.PriorityDefault)); err != nil {
		return nil, d.Plain(err)
	}
	return d, nil
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

func settings(ctx context.Context) context.Context {
	ctx, c := fs.AddConfig(ctx)
	c.LowLevelRetries, c.ConnectTimeout, c.Timeout, c.UserAgent = attempts, fs.Duration(answer), fs.Duration(answer), "Ambrosa"
	return ctx
}

// values are what the backend of a kind is told.
func (d *Drive) values(ctx context.Context, o Options) (configmap.Simple, error) {
	a := d.Address
	hidden := ""
	if o.Secret != "" {
		var err error
		if hidden, err = obscure.Obscure(o.Secret); err != nil {
			return nil, fmt.Errorf("%w: %w", ErrDrive, err)
		}
	}
	host, port, err := net.SplitHostPort(a.Host)
	if err != nil {
		host, port = strings.Trim(a.Host, "[]"), ""
	}
	values := configmap.Simple{}
	switch a.Kind {
	case "webdav":
		values["url"], values["vendor"], values["user"], values["pass"] = a.url, "other", a.User, hidden
	case "http":
		values["url"] = a.url
	case "sftp":
		key, err := d.hostKey(ctx, o)
		if err != nil {
			return nil, err
		}
		values["host_keys"], values["disable_hashcheck"], values["shell_type"] = key, "true", "none"
		fallthrough
	case "ftp", "smb":
		values["host"], values["user"], values["pass"] = host, a.User, hidden
		if port != "" {
			values["port"] = port
		}
		if a.Kind == "ftp" && a.User == "" {
			values["user"] = "anonymous"
			if hidden == "" {
				values["pass"], err = obscure.Obscure("anonymous@example")
			}
			return values, err
		}
	case "s3":
		values["provider"], values["access_key_id"], values["secret_access_key"], values["endpoint"], values["force_path_style"] = "Other", a.User, o.Secret, a.Endpoint, "true"
		values["no_check_bucket"] = "true"
	case "local":
		values["nounc"] = "true"
	}
	return values, nil
}

// Each tells the files of the drive, folder by folder; what can't be read of a folder below is told to wrong, and the rest goes on. Memory
// grows with the largest folder. Errors: those of Open where the drive's own folder can't be read, and the visitor's.
func (d *Drive) Each(ctx context.Context, visit func(File) error, wrong func(path string, err error)) error {
	ctx = settings(ctx)
	var stopped error
	err := walk.Walk(ctx, d.fs, "", true, deepest, func(folder string, entries fs.DirEntries, err error) error {
		if err != nil {
			if folder == "" {
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
	r, err := f.object.Open(settings(ctx))
	return r, d.Plain(err)
}
