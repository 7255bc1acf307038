package strict

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
)

// Decode reads one document into a Go value: an unknown field is a mistake to be told, not passed over, and so is
// anything behind the document. Its error is a list of faults.
func Decode(data []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	err := d.Decode(into)
	if err == nil {
		if _, e := d.Token(); !errors.Is(e, io.EOF) {
			err = errors.New("something follows the end of the document")
		}
	}
	if err != nil {
		return Syntax(data, err)
	}
	return nil
}

// Syntax tells a decoder's error with the line it happened on.
func Syntax(data []byte, err error) error {
	at := len(data)
	var se *json.SyntaxError
	var te *json.UnmarshalTypeError
	switch {
	case errors.As(err, &se):
		at = int(min(se.Offset, int64(len(data))))
	case errors.As(err, &te):
		at = int(min(te.Offset, int64(len(data))))
	}
	detail := []rune(err.Error())
	return Faults{{
		Path: "$",
		Code: "fault.syntax",
		With: map[string]any{
			"line":   1 + bytes.Count(data[:at], []byte("\n")),
			"detail": string(detail[:min(len(detail), 80)]),
		},
	}}
}
