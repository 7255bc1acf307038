// Package blobs keeps pieces of data by name outside the database: in a folder, or in a store that speaks S3.
package blobs

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strings"
)

// ErrNotFound is a piece that is not there.
var ErrNotFound = errors.New("blobs: not found")

// Bucket keeps pieces by name. A name is letters, digits, dots, dashes and underscores, with slashes between; a piece
// put again under its name replaces the one before, and one that is not there is dropped without an error.
type Bucket interface {
	Put(ctx context.Context, name string, data []byte) error
	Get(ctx context.Context, name string) ([]byte, error)
	Drop(ctx context.Context, name string) error
}

var nameForm = regexp.MustCompile(`^[A-Za-z0-9_][A-Za-z0-9._-]*(/[A-Za-z0-9_][A-Za-z0-9._-]*)*$`)

func named(name string) error {
	if !nameForm.MatchString(name) {
		return fmt.Errorf("blobs: %q is no name of a piece", name)
	}
	return nil
}

// Open gives the bucket of an address: file:///a/folder, or s3://bucket/and/prefix?endpoint=host:port, with insecure=1
// where that speaks plain HTTP and region= where it wants one. The keys of an S3 store are AWS_ACCESS_KEY_ID and
// AWS_SECRET_ACCESS_KEY of the environment.
func Open(ctx context.Context, address string) (Bucket, error) {
	u, err := url.Parse(address)
	if err != nil {
		return nil, fmt.Errorf("this address of a store cannot be read: %w", err)
	}
	switch u.Scheme {
	case "file":
		return openFolder(u.Path)
	case "s3":
		q := u.Query()
		return openS3(
			ctx,
			s3At{
				bucket:   u.Host,
				prefix:   strings.Trim(u.Path, "/"),
				endpoint: q.Get("endpoint"),
				region:   q.Get("region"),
				plain:    q.Get("insecure") == "1",
			},
		)
	}
	return nil, fmt.Errorf("%q is no address of a store: file:///a/folder, or s3://bucket/prefix?endpoint=host:port", address)
}
