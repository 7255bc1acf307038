package system

import (
	"strings"
	"testing"
)

func BenchmarkParse(b *testing.B) {
	doc := []byte(document(b, "pickup-front-rear-vacuum"))
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Parse(doc); err != nil {
			b.Fatal(err)
		}
	}
}

// The worst a megabyte can do: a long list of wheels, each at fault.
func BenchmarkParseManyFaults(b *testing.B) {
	doc := []byte(`{"wheels":[` + strings.Repeat(`{"id":"a","x":1},`, 40000) + `{}]}`)
	for b.Loop() {
		if _, err := Parse(doc); err == nil {
			b.Fatal("accepted")
		}
	}
}
