package blobs

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// folder keeps each piece as a file under a root.
type folder struct{ root string }

func openFolder(path string) (Bucket, error) {
	if !filepath.IsAbs(path) {
		return nil, fmt.Errorf("file://%s: a folder is named from the root, with three slashes: file:///var/lib/photos", path)
	}
	if err := os.MkdirAll(path, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for photos: %w", err)
	}
	return folder{path}, nil
}

func (f folder) at(name string) (string, error) {
	if err := named(name); err != nil {
		return "", err
	}
	return filepath.Join(f.root, filepath.FromSlash(name)), nil
}

// Put implements Bucket. What stands under a name is whole: it is written beside it, brought to the disk, and moved
// there.
func (f folder) Put(_ context.Context, name string, data []byte) (err error) {
	path, err := f.at(name)
	if err != nil {
		return err
	}
	dir := filepath.Dir(path)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	part, err := os.CreateTemp(dir, ".part-")
	if err != nil {
		return err
	}
	_, err = part.Write(data)
	if err = errors.Join(err, part.Sync(), part.Close()); err == nil {
		err = os.Rename(part.Name(), path)
	}
	if err != nil {
		return errors.Join(err, os.Remove(part.Name()))
	}
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// Get implements Bucket.
func (f folder) Get(_ context.Context, name string) ([]byte, error) {
	path, err := f.at(name)
	if err != nil {
		return nil, err
	}
	data, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	return data, err
}

// Drop implements Bucket.
func (f folder) Drop(_ context.Context, name string) error {
	path, err := f.at(name)
	if err != nil {
		return err
	}
	if err := os.Remove(path); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
