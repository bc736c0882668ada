package pairing

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

// benchLists makes 100,000 owners and as many names: five of six hold a key, in five notations, the others none.
func benchLists() ([]Owner, []File) {
	const n = 100_000
	w := &writer{Rand: rand.New(rand.NewPCG(1, 2)), style: "lettered", seen: map[string]bool{}}
	owners, files := make([]Owner, n), make([]File, n)
	for i := range owners {
		owners[i] = Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, w.sku()}}}
	}
	for i := range files {
		sku := owners[w.IntN(n)].Keys[0].Text
		if i%6 == 0 {
			sku = w.sku()
		}
		form := []string{"%s_%d.jpg", "in/%s (%d).JPG", "tarn_%s_%02d.png", "%s/%d.jpg", "%s_front%d.jpg"}[i%5]
		files[i].Path = fmt.Sprintf(form, sku, i%9+1)
	}
	return owners, files
}

func BenchmarkIndex(b *testing.B) {
	owners, _ := benchLists()
	for b.Loop() {
		NewIndex(owners)
	}
}

func BenchmarkStudy(b *testing.B) {
	owners, files := benchLists()
	index := NewIndex(owners)
	for b.Loop() {
		NewStudy(index, files)
	}
}

// BenchmarkClaims weighs again what was read once, as a change of ladder does.
func BenchmarkClaims(b *testing.B) {
	owners, files := benchLists()
	study := NewStudy(NewIndex(owners), files)
	study.Claims(Choice{})
	for b.Loop() {
		study.Claims(Choice{})
	}
}

// BenchmarkWeigh looks for what the names without a key may mean.
func BenchmarkWeigh(b *testing.B) {
	owners, files := benchLists()
	index := NewIndex(owners)
	for b.Loop() {
		b.StopTimer()
		study := NewStudy(index, files)
		b.StartTimer()
		study.Claims(Choice{})
	}
}

func BenchmarkTrial(b *testing.B) {
	owners, files := benchLists()
	index := NewIndex(owners)
	for b.Loop() {
		NewStudy(index, files).Trial(nil)
	}
}
