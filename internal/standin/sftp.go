package standin

import (
	"context"
	"crypto/ed25519"
	"crypto/subtle"
	"errors"
	"io"
	"io/fs"
	"net"
	"os"
	"path"
	"strings"

	"github.com/pkg/sftp"
	"golang.org/x/crypto/ssh"
)

// SFTP answers as a supplier's server does, on loopback, until ctx ends: a folder that can be read by one name and password. Its key is made
// of seed, so that it is the same at every start. It returns where it listens.
func SFTP(ctx context.Context, folder, name, password string, seed [ed25519.SeedSize]byte) (address string, err error) {
	key, err := ssh.NewSignerFromKey(ed25519.NewKeyFromSeed(seed[:]))
	if err != nil {
		return "", err
	}
	config := &ssh.ServerConfig{PasswordCallback: func(c ssh.ConnMetadata, p []byte) (*ssh.Permissions, error) {
		if subtle.ConstantTimeCompare([]byte(c.User()+"\n"+string(p)), []byte(name+"\n"+password)) != 1 {
			return nil, errors.New("who asks?")
		}
		return nil, nil
	}}
	config.AddHostKey(key)
	root, err := os.OpenRoot(folder) // nothing outside is reached
	if err != nil {
		return "", err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		root.Close()
		return "", err
	}
	go func() {
		<-ctx.Done()
		listener.Close()
		root.Close()
	}()
	go func() {
		for {
			c, err := listener.Accept()
			if err != nil {
				return
			}
			go session(c, config, root.FS())
		}
	}()
	return listener.Addr().String(), nil
}

// session serves one connection.
func session(c net.Conn, config *ssh.ServerConfig, files fs.FS) {
	defer c.Close()
	conn, channels, requests, err := ssh.NewServerConn(c, config)
	if err != nil {
		return
	}
	defer conn.Close()
	go ssh.DiscardRequests(requests)
	for wanted := range channels {
		if wanted.ChannelType() != "session" {
			_ = wanted.Reject(ssh.UnknownChannelType, "only sessions")
			continue
		}
		channel, asked, err := wanted.Accept()
		if err != nil {
			return
		}
		go func() {
			for r := range asked {
				isSFTP := r.Type == "subsystem" && string(r.Payload[4:]) == "sftp"
				_ = r.Reply(isSFTP, nil)
			}
		}()
		go func() {
			defer channel.Close()
			shown := shown{files}
			_ = sftp.NewRequestServer(channel, sftp.Handlers{FileGet: shown, FilePut: shown, FileCmd: shown, FileList: shown}).Serve()
		}()
	}
}

// shown are files that can be read.
type shown struct{ files fs.FS }

func inside(name string) string {
	if at := strings.Trim(path.Clean("/"+name), "/"); at != "" {
		return at
	}
	return "."
}

// Fileread opens a file.
func (s shown) Fileread(r *sftp.Request) (io.ReaderAt, error) {
	f, err := s.files.Open(inside(r.Filepath))
	if err != nil {
		return nil, err
	}
	at, ok := f.(io.ReaderAt)
	if !ok {
		f.Close()
		return nil, os.ErrInvalid
	}
	return at, nil
}

// Filewrite and Filecmd refuse: nobody writes here.
func (shown) Filewrite(*sftp.Request) (io.WriterAt, error) { return nil, os.ErrPermission }
func (shown) Filecmd(*sftp.Request) error                  { return os.ErrPermission }

// Filelist tells of a file, or of those in a folder.
func (s shown) Filelist(r *sftp.Request) (sftp.ListerAt, error) {
	name := inside(r.Filepath)
	if r.Method != "List" {
		info, err := fs.Stat(s.files, name)
		return told{info}, err
	}
	entries, err := fs.ReadDir(s.files, name)
	if err != nil {
		return nil, err
	}
	var all told
	for _, e := range entries {
		if info, err := e.Info(); err == nil {
			all = append(all, info)
		}
	}
	return all, nil
}

// told is what is known of some files.
type told []os.FileInfo

// ListAt tells some of them.
func (t told) ListAt(into []os.FileInfo, from int64) (int, error) {
	if from >= int64(len(t)) {
		return 0, io.EOF
	}
	n := copy(into, t[from:])
	if n < len(into) {
		return n, io.EOF
	}
	return n, nil
}
