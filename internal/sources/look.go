package sources

import (
	"context"
	"errors"
	"io"
	"net"
	"net/url"
	"path"
	"strings"
	"time"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/internal/drive"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"
)

// Tried is what a look at a drive found.
type Tried struct {
	Files    int
	Pictures int // by their names
	Bytes    int64
	Whole    bool // all was counted; else there are more
	HostKey  string
	Print    string            // of a certificate that is not trusted
	Missing  []message.Message // permissions, and what else is in the way
}

// tryTime is how long a look at a drive counts.
const tryTime = 15 * time.Second

// Try looks at a drive: how much there is, and whether it can be listed and read. It asks for no more than that.
func (s *Sources) Try(ctx context.Context, id int64) (Tried, error) {
	of, err := s.Store.SourceByID(ctx, id)
	if err != nil {
		return Tried{}, err
	}
	var tried Tried
	d, err := s.drive(ctx, of)
	if err == nil {
		defer d.Close()
		tried, err = look(ctx, d)
	}
	if told := trouble(err, of.Name); told != nil {
		var away *source.Trouble
		if !errors.As(told, &away) {
			return tried, told
		}
		tried.Missing = append(tried.Missing, away.Says)
		if errors.Is(err, drive.ErrCertificate) {
			tried.Print = s.printOf(ctx, of)
		}
	}
	if again, err := s.Store.SourceByID(ctx, id); err == nil {
		if set, err := settingsOf(again); err == nil {
			tried.HostKey = set.HostKey
		}
	}
	return tried, nil
}

// errEnough ends a count.
var errEnough = errors.New("enough")

func look(ctx context.Context, d *drive.Drive) (t Tried, err error) {
	until := time.Now().Add(tryTime)
	var first *drive.File
	err = d.Each(ctx, "", func(f drive.File) error {
		t.Files++
		t.Bytes += max(f.Bytes, 0)
		if isPicture(f.Path) {
			t.Pictures++
		}
		if first == nil && f.Bytes != 0 {
			first = &f
		}
		if time.Now().After(until) {
			return errEnough
		}
		return nil
	}, func(folder string, err error) {
		if len(t.Missing) < 10 {
			t.Missing = append(t.Missing, message.New("drive_folder_unread", "folder", folder, "why", err.Error()))
		}
	})
	t.Whole = err == nil
	if errors.Is(err, errEnough) {
		err = nil
	}
	if err != nil || first == nil {
		return t, err
	}
	in, err := d.Open(ctx, *first)
	if err == nil {
		_, err = io.ReadFull(in, make([]byte, 1))
		in.Close()
	}
	if err != nil {
		t.Missing = append(t.Missing, message.New("drive_no_read", "path", first.Path, "why", d.Plain(err).Error()))
	}
	return t, nil
}

// isPicture reports whether a name is one of a picture.
func isPicture(path string) bool { return names.IsPicture(names.Read(path).Extension) }

// printOf is the fingerprint of the certificate of a source's host.
func (s *Sources) printOf(ctx context.Context, of query.Source) string {
	set, err := settingsOf(of)
	if err != nil {
		return ""
	}
	secrets, err := s.secrets(of)
	if err != nil {
		return ""
	}
	spec, err := specOf(set, secrets)
	if err != nil {
		return ""
	}
	door, err := s.door(ctx, spec)
	if err != nil {
		return ""
	}
	address := spec.Values["url"]
	if spec.Kind == "s3" {
		address = spec.Values["endpoint"]
	}
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	port := u.Port()
	if port == "" {
		port = "443"
	}
	print, err := drive.CertificateOf(ctx, door, net.JoinHostPort(u.Hostname(), port))
	if err != nil {
		return ""
	}
	return print
}

// Browsed is what a browse through a drive tells: a folder with what is in it, or a file that was searched for.
type Browsed struct {
	Folder   string // with a / at its end; empty for the drive's own, and for a file
	Files    int
	Pictures int
	Bytes    int64
	Here     int // of the files, those that came already, as they are
	File     *drive.File
	IsHere   bool // of the file
}

// Browse tells the folders below one, each with what lies in it itself, as they come, and of all below the files whose name holds a text,
// where one is given. It costs a question to the database for each folder.
func (s *Sources) Browse(ctx context.Context, id int64, below, search string, tell func(Browsed) error) error {
	search = strings.ToLower(search)
	return s.with(ctx, id, func(d *drive.Drive) error {
		var files []drive.File
		in := ""
		flush := func() error {
			if len(files) == 0 {
				return nil
			}
			defer func() { files = files[:0] }()
			return s.browsed(ctx, id, in, files, search, tell)
		}
		err := d.Each(ctx, strings.TrimSuffix(below, "/"), func(f drive.File) error {
			if folder := folderOf(f.Path); folder != in || len(files) >= portion {
				if err := flush(); err != nil {
					return err
				}
				in = folder
			}
			files = append(files, f)
			return nil
		}, func(string, error) {})
		if err == nil {
			err = flush()
		}
		return err
	})
}

func folderOf(file string) string {
	if dir := path.Dir(file); dir != "." {
		return dir + "/"
	}
	return ""
}

// browsed tells of some files of one folder.
func (s *Sources) browsed(ctx context.Context, id int64, in string, files []drive.File, search string, tell func(Browsed) error) error {
	here, err := s.here(ctx, id, files)
	if err != nil {
		return err
	}
	all := Browsed{Folder: in}
	for i, f := range files {
		all.Files++
		all.Bytes += max(f.Bytes, 0)
		if isPicture(f.Path) {
			all.Pictures++
		}
		if here[i] {
			all.Here++
		}
		if search != "" && strings.Contains(strings.ToLower(path.Base(f.Path)), search) {
			if err := tell(Browsed{File: &files[i], IsHere: here[i]}); err != nil {
				return err
			}
		}
	}
	return tell(all)
}

// here tells which files of a drive came already, as they are. It costs one question.
func (s *Sources) here(ctx context.Context, id int64, files []drive.File) ([]bool, error) {
	known := query.KnownRemoteParams{SourceID: id, Items: make([]string, len(files))}
	for i, f := range files {
		known.Items[i] = itemOf(f.Path)
	}
	rows, err := s.Store.KnownRemote(ctx, known)
	if err != nil {
		return nil, err
	}
	came := make(map[string]int64, len(rows))
	for _, r := range rows {
		came[r.Item] = r.Bytes
	}
	here := make([]bool, len(files))
	for i, f := range files {
		bytes, isKnown := came[known.Items[i]]
		here[i] = isKnown && bytes == f.Bytes
	}
	return here, nil
}

// Listed are the files and folders in one folder of a drive.
func (s *Sources) Listed(ctx context.Context, id int64, folder string) (all []drive.Entry, here map[string]bool, err error) {
	err = s.with(ctx, id, func(d *drive.Drive) error {
		if all, err = d.Look(ctx, strings.TrimSuffix(folder, "/")); err != nil {
			return err
		}
		files := make([]drive.File, len(all))
		for i, e := range all {
			files[i] = e.File
		}
		came, err := s.here(ctx, id, files)
		if err != nil {
			return err
		}
		here = make(map[string]bool, len(all))
		for i, e := range all {
			here[e.Path] = came[i]
		}
		return nil
	})
	return all, here, err
}

// Glimpse reads one file of a drive, no more than so many bytes.
func (s *Sources) Glimpse(ctx context.Context, id int64, file string, most int64) (b []byte, err error) {
	err = s.with(ctx, id, func(d *drive.Drive) error {
		f, err := d.Find(ctx, file)
		if err != nil {
			return err
		}
		in, err := d.Open(ctx, f)
		if err != nil {
			return err
		}
		defer in.Close()
		b, err = io.ReadAll(io.LimitReader(in, most))
		return err
	})
	return b, err
}

// with opens a source's drive for a moment.
func (s *Sources) with(ctx context.Context, id int64, use func(*drive.Drive) error) error {
	of, err := s.Store.SourceByID(ctx, id)
	if err != nil {
		return err
	}
	d, err := s.drive(ctx, of)
	if err == nil {
		defer d.Close()
		err = use(d)
	}
	return trouble(err, of.Name)
}
