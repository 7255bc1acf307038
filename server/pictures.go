package server

import (
	"context"
	"time"
)

// How often pictures are brought to the store outside; after one that failed it is left alone for a while.
const (
	bringEvery = 5 * time.Second
	bringRests = time.Minute
)

// bringPictures brings photos to the store outside, as long as the server lives. Where there is none it ends at once.
func (s *server) bringPictures(life context.Context) {
	if !s.Store.BringsPictures() {
		return
	}
	wait := time.Duration(0)
	for {
		select {
		case <-life.Done():
			return
		case <-time.After(wait):
		}
		brought, err := s.Store.BringPictures(life)
		switch {
		case err != nil && life.Err() == nil:
			s.Log.Error("photos", "error", err)
			wait = bringRests
		case brought > 0:
			wait = 0
		default:
			wait = bringEvery
		}
	}
}
