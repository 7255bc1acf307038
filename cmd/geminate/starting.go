package main

import (
	"net"
	"net/http"
	"strings"
	"sync/atomic"
	"time"
)

// starting answers on the shop's port from its first second: what is being waited for, and to come again. Screens and
// programs are told, instead of hanging.
type starting struct {
	what atomic.Value // string
	http *http.Server
}

// startOn begins to answer on a listener.
func startOn(l net.Listener) *starting {
	s := &starting{}
	s.waits("database")
	s.http = &http.Server{Handler: s, ReadHeaderTimeout: 5 * time.Second, WriteTimeout: 5 * time.Second, MaxHeaderBytes: 16 << 10}
	s.http.SetKeepAlivesEnabled(false) // whoever asks again asks the shop
	go func() { _ = s.http.Serve(l) }()
	return s
}

// waits says what for.
func (s *starting) waits(what string) { s.what.Store(what) }

// ServeHTTP implements http.Handler.
func (s *starting) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	what, _ := s.what.Load().(string)
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Retry-After", "1")
	if strings.HasPrefix(r.URL.Path, "/api/") {
		w.Header().Set("Content-Type", "application/json; charset=utf-8")
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = w.Write([]byte(`{"code":"problem.starting","detail":"` + what + `"}`))
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(http.StatusServiceUnavailable)
	_, _ = w.Write([]byte(`<!doctype html><meta http-equiv="refresh" content="1"><title>Geminate</title><p>Starting: ` + what + `.`))
}

// end lets the shop answer.
func (s *starting) end() { _ = s.http.Close() }
