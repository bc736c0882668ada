package assets

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
)

// BenchmarkLargePictures probes pictures of 16,000 × 16,000 px that can only be decoded whole, one and then eight at once,
// each in a process of its own, and compares the peaks of their memory.
func BenchmarkLargePictures(b *testing.B) {
	if file := os.Getenv("AMBROSA_PROBE"); file != "" {
		probeMany(b, file)
		return
	}
	folder := b.TempDir()
	vips := func(args ...string) {
		b.Helper()
		if out, err := exec.Command("vips", args...).CombinedOutput(); err != nil {
			b.Fatalf("vips %v: %v\n%s", args, err, out)
		}
	}
	plain, colour := filepath.Join(folder, "plain.v"), filepath.Join(folder, "colour.v")
	vips("black", plain, "16000", "16000", "--bands", "3")
	vips("copy", plain, colour, "--interpretation", "srgb")
	for name, save := range map[string][]string{
		"progressive.jpg": {"jpegsave", colour, "", "--interlace", "--subsample-mode", "off"},
		"interlaced.png":  {"pngsave", colour, "", "--interlace"},
	} {
		file := filepath.Join(folder, name)
		save[2] = file
		vips(save...)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				one, eight := peakOf(b, file, 1), peakOf(b, file, 8)
				b.ReportMetric(one, "MiB-one")
				b.ReportMetric(eight, "MiB-eight")
				b.ReportMetric(eight/one, "eight÷one")
			}
		})
	}
}

// peakOf runs this benchmark in another process, which probes so many, and returns its peak in MiB.
func peakOf(b *testing.B, file string, pictures int) float64 {
	b.Helper()
	cmd := exec.Command(os.Args[0], "-test.run", "^$", "-test.bench", "BenchmarkLargePictures", "-test.benchtime", "1x")
	cmd.Env = append(os.Environ(), "AMBROSA_PROBE="+file, fmt.Sprint("AMBROSA_PROBES=", pictures))
	out, err := cmd.CombinedOutput()
	_, after, ok := strings.Cut(string(out), "peak ")
	kib, scanErr := strconv.ParseFloat(strings.TrimSpace(strings.SplitN(after, "kB", 2)[0]), 64)
	if err != nil || !ok || scanErr != nil {
		b.Fatalf("%v, %v\n%s", err, scanErr, out)
	}
	return kib / 1024
}

func probeMany(b *testing.B, file string) {
	pictures, _ := strconv.Atoi(os.Getenv("AMBROSA_PROBES"))
	var wg sync.WaitGroup
	for range pictures {
		wg.Go(func() {
			if _, err := Probe(context.Background(), Source{File: file}, 1e9); err != nil {
				b.Error(err)
			}
		})
	}
	wg.Wait()
	status, err := os.ReadFile("/proc/self/status")
	if err != nil {
		b.Fatal(err)
	}
	for line := range strings.Lines(string(status)) {
		if peak, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			fmt.Println("peak", strings.TrimSpace(peak))
		}
	}
}
