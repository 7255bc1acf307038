package blobs

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"time"

	"github.com/minio/minio-go/v7"
	"github.com/minio/minio-go/v7/pkg/credentials"
)

type s3At struct {
	bucket, prefix, endpoint, region string
	plain                            bool
}

// s3 keeps pieces in a bucket of a store that speaks S3.
type s3 struct {
	client *minio.Client
	s3At
}

// s3Answers is how long one call may take, retries included.
const s3Answers = 20 * time.Second

func openS3(ctx context.Context, at s3At) (Bucket, error) {
	if at.bucket == "" || at.endpoint == "" {
		return nil, errors.New("a store that speaks S3 is named by its bucket and where it answers: s3://bucket/prefix?endpoint=host:port")
	}
	client, err := minio.New(at.endpoint,
		&minio.Options{Creds: credentials.NewEnvAWS(), Secure: !at.plain, Region: at.region, MaxRetries: 3})
	if err != nil {
		return nil, fmt.Errorf("the store for photos: %w", err)
	}
	ctx, cancel := context.WithTimeout(ctx, s3Answers)
	defer cancel()
	there, err := client.BucketExists(ctx, at.bucket)
	switch {
	case err != nil:
		return nil, fmt.Errorf("the store for photos at %s: %w. Its keys are AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY", at.endpoint, err)
	case !there:
		return nil, fmt.Errorf("the store for photos at %s has no bucket %q: make it, or name another", at.endpoint, at.bucket)
	}
	return &s3{client, at}, nil
}

func (s *s3) key(name string) (string, error) { return path.Join(s.prefix, name), named(name) }

// Put implements Bucket.
func (s *s3) Put(ctx context.Context, name string, data []byte) error {
	key, err := s.key(name)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, s3Answers)
	defer cancel()
	_, err = s.client.PutObject(ctx, s.bucket, key, bytes.NewReader(data), int64(len(data)),
		minio.PutObjectOptions{ContentType: http.DetectContentType(data)})
	return err
}

// Get implements Bucket.
func (s *s3) Get(ctx context.Context, name string) (data []byte, err error) {
	key, err := s.key(name)
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, s3Answers)
	defer cancel()
	o, err := s.client.GetObject(ctx, s.bucket, key, minio.GetObjectOptions{})
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, o.Close()) }()
	data, err = io.ReadAll(o)
	if code := minio.ToErrorResponse(err).Code; code == minio.NoSuchKey {
		return nil, ErrNotFound
	}
	return data, err
}

// Drop implements Bucket.
func (s *s3) Drop(ctx context.Context, name string) error {
	key, err := s.key(name)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, s3Answers)
	defer cancel()
	return s.client.RemoveObject(ctx, s.bucket, key, minio.RemoveObjectOptions{})
}
