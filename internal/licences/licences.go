// Package licences carries the licence texts of everything the program is made of. `make licences` gathers them anew.
package licences

import (
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"io"
)

//go:embed texts.gz
var packed []byte

// Text is all of them, each under its own head: "== name version".
func Text() ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return nil, fmt.Errorf("licences: %w", err)
	}
	return io.ReadAll(z)
}
