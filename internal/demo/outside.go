package demo

import (
	"context"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"ambrosa/internal/api"
	"ambrosa/internal/standin"
)

// Hosts of the suppliers' servers that the demo stands in for, and how one signs in there.
const (
	TarnHost     = "drive.tarn.example"
	FellsideHost = "files.fellside.example"
	DriveUser    = "pellmoor"
	DriveSecret  = "lend-us-the-wind"
)

// Outside is the demo's outside world: suppliers' servers, whose files are at hand in a folder, and change when a day passes.
type Outside struct {
	folder   string
	mu       sync.Mutex
	pictures sync.Map       // that were drawn, by article, view and size
	busy     map[string]int // by path, how often a server that is busy was asked
	mail     standin.Mail
	told     []api.OutsideMessage // of the webhook
}

// Begin begins the outside world in a folder, until ctx ends, and returns which host leads where.
func Begin(ctx context.Context, folder string) (*Outside, map[string]string, error) {
	o := &Outside{folder: folder, busy: map[string]int{}}
	tarn, fellside := filepath.Join(folder, "tarn"), filepath.Join(folder, "fellside")
	for name, files := range map[string][]file{tarn: tarnDrive(), fellside: fellsideDrive()} {
		if err := lay(ctx, name, files); err != nil {
			return nil, nil, err
		}
	}
	hosts := map[string]string{}
	var err error
	if hosts[TarnHost], err = standin.WebDAV(ctx, tarn, DriveUser, DriveSecret); err != nil {
		return nil, nil, err
	}
	if hosts[FellsideHost], err = standin.SFTP(ctx, fellside, DriveUser, DriveSecret, [32]byte{1}); err != nil {
		return nil, nil, err
	}
	if hosts[Host], err = standin.Web(ctx, o.answer); err != nil {
		return nil, nil, err
	}
	if hosts[ShopHost], err = standin.Web(ctx, o.shop); err != nil {
		return nil, nil, err
	}
	floor := filepath.Join(folder, "floor")
	if err := os.MkdirAll(floor, 0o755); err != nil {
		return nil, nil, err
	}
	if hosts[FloorHost], err = standin.WebDAVShop(ctx, floor, DriveUser, DriveSecret); err != nil {
		return nil, nil, err
	}
	if hosts[MailHost], err = o.mail.Begin(ctx); err != nil {
		return nil, nil, err
	}
	if hosts[HookHost], err = standin.Web(ctx, o.hook); err != nil {
		return nil, nil, err
	}
	hosts[LookupHost], err = standin.Web(ctx, o.lookup)
	return o, hosts, err
}

// once reports whether something is asked for the first time.
func (o *Outside) once(what string) bool {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.busy[what]++
	return o.busy[what] == 1
}

// dawn is when the first files were laid.
var dawn = time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC)

// lay puts files into a folder that is not there yet.
func lay(ctx context.Context, folder string, files []file) error {
	if _, err := os.Stat(folder); err == nil {
		return nil
	}
	if err := drawAll(ctx, files); err != nil {
		return err
	}
	making := folder + ".new"
	if err := os.RemoveAll(making); err != nil {
		return err
	}
	for _, f := range files {
		if err := put(filepath.Join(making, filepath.FromSlash(f.path)), f.make(), dawn); err != nil {
			return err
		}
	}
	return os.Rename(making, folder)
}

func put(place string, b []byte, at time.Time) error {
	if err := os.MkdirAll(filepath.Dir(place), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(place, b, 0o644); err != nil {
		return err
	}
	return os.Chtimes(place, at, at)
}

// tarnPath is where Tarn & Daughter keep an article's picture.
func tarnPath(a article, number int) string {
	return fmt.Sprintf("winter/%s/%s/tarn_%s %02d.jpg", strings.ToLower(a.family.noun), a.hue.word, strings.ToLower(strings.ReplaceAll(a.sku, "-", " ")), number)
}

// tarnDrive is the drive of Tarn & Daughter Spars: folders in folders.
func tarnDrive() []file {
	files := []file{{"winter/read me.txt", func() []byte { return []byte("pictures of the winter collection\n") }}}
	for _, a := range of("SLD")[:40] {
		files = append(files, picture(a, detail, tarnPath(a, 3)))
	}
	return append(files, picture(of("BOX")[0], packed, "old/box, packed.jpg"))
}

// fellsideCode is Fellside Reels' own number of an article.
func fellsideCode(i int) string { return fmt.Sprintf("FR-%04d", 2100+i*7) }

// fellsideDrive is the server of Fellside Reels: their own numbers for names.
func fellsideDrive() []file {
	var files []file
	for i, a := range of("LIN")[:24] {
		files = append(files, picture(a, back, fmt.Sprintf("lines/%s_1.jpg", fellsideCode(i))))
	}
	return files
}

// Pass lets a day pass outside: at Tarn & Daughter a picture is renewed, one vanishes, one gets another name, and two are new; at Fellside one is
// new.
func (o *Outside) Pass() error {
	o.mu.Lock()
	defer o.mu.Unlock()
	day := 1
	for ; ; day++ {
		if _, err := os.Stat(filepath.Join(o.folder, fmt.Sprintf("day-%d", day))); err != nil {
			break
		}
	}
	at := dawn.AddDate(0, 0, day)
	tarn := func(a article, n int) string {
		return filepath.Join(o.folder, "tarn", filepath.FromSlash(tarnPath(a, n)))
	}
	some, fresh := of("SLD")[:40], of("SLD")[40:]
	first := (day - 1) * 3 % 36
	renewed, vanished, moved := some[first], some[first+1], some[first+2]
	steps := []func() error{
		func() error { return put(tarn(renewed, 3), drawing(renewed, detail, side+100*day), at) },
		func() error { return os.RemoveAll(tarn(vanished, 3)) },
		func() error {
			if _, err := os.Stat(tarn(moved, 3)); err != nil {
				return nil
			}
			return os.Rename(tarn(moved, 3), tarn(moved, 4))
		},
		func() error { return put(tarn(fresh[day*2%20], 3), drawing(fresh[day*2%20], detail, side), at) },
		func() error { return put(tarn(fresh[day*2%20], 4), drawing(fresh[day*2%20], packed, side), at) },
		func() error {
			i := 24 + (day-1)%30
			return put(filepath.Join(o.folder, "fellside", "lines", fellsideCode(i)+"_1.jpg"), drawing(of("LIN")[i], back, side), at)
		},
		func() error { return put(filepath.Join(o.folder, fmt.Sprintf("day-%d", day)), nil, at) },
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

// Addresses are those of Fellside Reels: most have a picture, and some are trouble.
func Addresses() string {
	var b strings.Builder
	for i, a := range of("REL")[24:36] {
		at := fmt.Sprintf("http://%s/photos/%04d.jpg", Host, 4100+i) // only the list says whose it is
		switch i {
		case 0:
			at = fmt.Sprintf("http://%s/reels/%s/packed.jpg", Host, a.sku)
		case 3:
			at = "http://" + Host + "/slow/" + a.sku + ".jpg"
		case 5:
			at = "http://" + Host + "/gone/" + a.sku + ".jpg"
		case 6:
			at = "http://" + Host + "/busy/" + a.sku + ".jpg"
		case 8:
			at = "http://" + Host + "/inside/" + a.sku + ".jpg"
		case 10:
			at = "http://" + Host + "/page/" + a.sku + ".jpg"
		}
		fmt.Fprintf(&b, "%s\t%s\n", a.sku, at)
	}
	return b.String()
}

// slow is how long the slow address takes.
const slow = 3 * time.Second

// answer is what the web server of Fellside Reels answers.
func (o *Outside) answer(r *http.Request) *standin.Page {
	for i, a := range of("REL") {
		if r.URL.Path == fmt.Sprintf("/photos/%04d.jpg", 4100-24+i) {
			return &standin.Page{Bytes: drawing(a, packed, side), Header: map[string]string{"ETag": `"` + a.sku + `"`}}
		}
		for _, v := range []view{front, back, detail, packed} {
			if r.URL.Path == fmt.Sprintf("/reels/%s/%s.jpg", a.sku, v) {
				return &standin.Page{Bytes: drawing(a, v, side), Header: map[string]string{"ETag": `"` + a.sku + `"`}}
			}
		}
		if !strings.HasSuffix(r.URL.Path, "/"+a.sku+".jpg") {
			continue
		}
		show := &standin.Page{Bytes: drawing(a, packed, side), Header: map[string]string{"ETag": `"` + a.sku + `"`}}
		switch r.URL.Path {
		case "/slow/" + a.sku + ".jpg":
			waited := make(chan struct{})
			time.AfterFunc(slow, func() { close(waited) })
			show.Wait = waited
			return show
		case "/busy/" + a.sku + ".jpg":
			if o.once(a.sku) {
				return &standin.Page{Status: http.StatusTooManyRequests, Header: map[string]string{"Retry-After": "2"}}
			}
			return show
		case "/inside/" + a.sku + ".jpg":
			return &standin.Page{Status: http.StatusFound, Header: map[string]string{"Location": "http://192.168.7.20/" + a.sku + ".jpg"}}
		case "/page/" + a.sku + ".jpg":
			return &standin.Page{Bytes: []byte("<!doctype html><title>Sign in</title><p>Please sign in to see this picture.")}
		}
	}
	return nil
}
