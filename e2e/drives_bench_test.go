package e2e

import (
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// webdav serves a folder over WebDAV with rclone, and returns its address. It asks for no password: comparing one with its hash at each request
// would be most of what is measured.
func webdav(b *testing.B, folder string) string {
	b.Helper()
	if _, err := exec.LookPath("rclone"); err != nil {
		b.Skip("rclone is not installed")
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		b.Fatal(err)
	}
	at := l.Addr().String()
	l.Close()
	c := exec.Command("rclone", "serve", "webdav", folder, "--addr", at, "--config", "/dev/null", "--dir-cache-time", "12h")
	if err := c.Start(); err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	await(b, 30*time.Second, "the drive to answer", func() bool {
		conn, err := net.Dial("tcp", at)
		if err == nil {
			conn.Close()
		}
		return err == nil
	})
	return at
}

// rclone runs the yardstick on a WebDAV server, and returns how long it took.
func rclone(b *testing.B, at string, args ...string) time.Duration {
	b.Helper()
	remote := fmt.Sprintf(`:webdav,url="http://%s/",vendor=other:`, at)
	for i, a := range args {
		args[i] = strings.ReplaceAll(a, "REMOTE", remote)
	}
	began := time.Now()
	c := exec.Command("rclone", append(args, "--config", "/dev/null")...)
	if out, err := c.CombinedOutput(); err != nil {
		b.Fatalf("rclone %v: %v\n%s", args, err, out)
	}
	return time.Since(began)
}

// BenchmarkCollect collects 2,000 pictures of 100 kB from a WebDAV server on loopback, to the last thumbnail, and divides by the time of rclone
// copy of the same folder with as many transfers and of taking in the same files as a zip.
func BenchmarkCollect(b *testing.B) {
	const count = 2000
	picture := photo(700)
	folder := dataFolder(b)
	for i := range count {
		if err := os.WriteFile(filepath.Join(folder, fmt.Sprintf("K-%06d.jpg", i)), numbered(picture, i), 0o644); err != nil {
			b.Fatal(err)
		}
	}
	at := webdav(b, folder)
	packed := archiveOf(b, picture, count)
	for b.Loop() {
		copied := rclone(b, at, "copy", "REMOTE", dataFolder(b), "--transfers", "4")
		one := serve(b)
		began := time.Now()
		id := one.send(packed)
		one.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", id), nil, nil)
		one.me.taken(id)
		zipped := time.Since(began)
		one.stop()
		two := serve(b, onLoopback)
		source := two.source("webdav", "webdav://mo@"+at+"/")
		began = time.Now()
		d := two.collect(source)
		took := time.Since(began)
		if d.Pictures != count {
			b.Fatalf("%d pictures came", d.Pictures)
		}
		two.stop()
		b.ReportMetric(float64(len(picture))/1000, "kB/picture")
		b.ReportMetric(took.Seconds(), "s")
		b.ReportMetric(copied.Seconds(), "s-rclone-copy")
		b.ReportMetric(zipped.Seconds(), "s-zip")
		b.ReportMetric(took.Seconds()/(copied+zipped).Seconds(), "ratio")
	}
}

// BenchmarkVisitAgain visits a drive of 50,000 files on which nothing is new, and divides by the time of rclone lsf -R of the same.
func BenchmarkVisitAgain(b *testing.B) {
	const folders, each = 500, 100
	root := dataFolder(b)
	for f := range folders {
		dir := filepath.Join(root, fmt.Sprintf("folder-%03d", f))
		if err := os.Mkdir(dir, 0o755); err != nil {
			b.Fatal(err)
		}
		for i := range each {
			if err := os.WriteFile(filepath.Join(dir, fmt.Sprintf("K-%03d-%02d.txt", f, i)), nil, 0o644); err != nil {
				b.Fatal(err)
			}
		}
	}
	at := webdav(b, root)
	p := serve(b, onLoopback)
	source := p.source("webdav", "webdav://mo@"+at+"/")
	p.collect(source) // empty files: what comes is told without a picture
	rclone(b, at, "lsf", "-R", "REMOTE")
	for b.Loop() {
		listed := rclone(b, at, "lsf", "-R", "REMOTE")
		began := time.Now()
		if d := p.collect(source); d.Lines != 0 {
			b.Fatalf("%d lines came", d.Lines)
		}
		took := time.Since(began)
		b.ReportMetric(took.Seconds(), "s")
		b.ReportMetric(listed.Seconds(), "s-rclone-lsf")
		b.ReportMetric(took.Seconds()/listed.Seconds(), "ratio")
	}
}

// BenchmarkListMillion lists 1,000,000 files in 1,000 folders with the command line, and reports the most memory that it took.
func BenchmarkListMillion(b *testing.B) {
	root := dataFolder(b)
	for f := range 1000 {
		dir := filepath.Join(root, fmt.Sprintf("f%03d", f))
		if err := os.Mkdir(dir, 0o755); err != nil {
			b.Fatal(err)
		}
		for i := range 1000 {
			file, err := os.Create(filepath.Join(dir, fmt.Sprintf("K-%03d-%03d.jpg", f, i)))
			if err != nil {
				b.Fatal(err)
			}
			file.Close()
		}
	}
	at := webdav(b, root)
	for b.Loop() {
		began := time.Now()
		c := exec.Command("../bin/ambrosa", "drive", "list", "webdav://mo@"+at+"/")
		c.Env = append(os.Environ(), "AMBROSA_SECRET="+driveSecret)
		counted := lineCounter{}
		c.Stdout = &counted
		if err := c.Run(); err != nil {
			b.Fatal(err)
		}
		if counted.lines != 1_000_000 {
			b.Fatalf("%d lines", counted.lines)
		}
		b.ReportMetric(time.Since(began).Seconds(), "s")
		b.ReportMetric(float64(c.ProcessState.SysUsage().(*syscall.Rusage).Maxrss)/1024, "MiB")
	}
}

type lineCounter struct{ lines int }

func (l *lineCounter) Write(p []byte) (int, error) {
	l.lines += strings.Count(string(p), "\n")
	return len(p), nil
}
