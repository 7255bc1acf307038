// Package instrument holds simulated instruments and services of the shop. The parts counter stands in for
// a supplier's service: a small HTTP server speaking JSON, slow and unreliable when told to be.
package instrument

import (
	"context"
	"encoding/json"
	"errors"
	"hash/fnv"
	"math/rand/v2"
	"net"
	"net/http"
	"net/url"
	"time"
)

// Offer is what a counter says of one number.
type Offer struct {
	Number   string  `json:"number"`
	Stock    int     `json:"stock"`     // at the counter
	LeadDays int     `json:"lead_days"` // where there is none
	Price    float64 `json:"price"`
	Core     float64 `json:"core"`
}

// Counter simulates a supplier. All it offers is made up from the number itself, so that asking twice gives
// the same answer.
type Counter struct {
	Delay    time.Duration // of every answer
	FailRate float64       // share of questions answered with an error
	// Known prices win over made-up ones.
	Known map[string]Offer
}

// Offer makes an answer up from a number.
func (c *Counter) Offer(number string) Offer {
	if o, ok := c.Known[number]; ok {
		return o
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(number))
	r := rand.New(rand.NewPCG(h.Sum64(), 1))
	o := Offer{Number: number, Stock: r.IntN(4), Price: float64(60+r.IntN(220)) + 0.5, Core: float64(10 * r.IntN(5))}
	if o.Stock == 0 {
		o.LeadDays = 1 + r.IntN(5)
	}
	return o
}

// ServeHTTP answers GET /v1/parts?number=….
func (c *Counter) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet || r.URL.Path != "/v1/parts" {
		http.Error(w, `{"error":"not found"}`, http.StatusNotFound)
		return
	}
	select {
	case <-time.After(c.Delay):
	case <-r.Context().Done():
		return
	}
	number := r.URL.Query().Get("number")
	w.Header().Set("Content-Type", "application/json")
	switch {
	case number == "":
		w.WriteHeader(http.StatusBadRequest)
		_, _ = w.Write([]byte(`{"error":"number is missing"}`))
	case rand.Float64() < c.FailRate:
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = w.Write([]byte(`{"error":"the counter is busy"}`))
	default:
		_ = json.NewEncoder(w).Encode(c.Offer(number))
	}
}

// Listen serves a counter on a loopback address until ctx ends.
func Listen(ctx context.Context, addr string, c *Counter) (net.Addr, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	s := &http.Server{Handler: c, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = s.Serve(l) }()
	go func() {
		<-ctx.Done()
		_ = s.Close()
	}()
	return l.Addr(), nil
}

// ErrCounter is a counter that gave no usable answer.
var ErrCounter = errors.New("instrument: the parts counter gave no answer")

// Ask asks a counter at a base URL for one number, twice where the first try fails.
func Ask(ctx context.Context, base, number string) (*Offer, error) {
	client := http.Client{Timeout: 2 * time.Second}
	for try := 0; try < 2; try++ {
		if try > 0 {
			select {
			case <-time.After(150 * time.Millisecond):
			case <-ctx.Done():
				return nil, ErrCounter
			}
		}
		req, err := http.NewRequestWithContext(ctx, http.MethodGet, base+"/v1/parts?number="+url.QueryEscape(number), nil)
		if err != nil {
			return nil, ErrCounter
		}
		answer, err := client.Do(req)
		if err != nil {
			continue
		}
		var o Offer
		err = json.NewDecoder(http.MaxBytesReader(nil, answer.Body, 1<<16)).Decode(&o)
		_ = answer.Body.Close()
		if answer.StatusCode == http.StatusOK && err == nil && o.Number == number && o.Price >= 0 && o.Core >= 0 && o.Stock >= 0 {
			return &o, nil
		}
	}
	return nil, ErrCounter
}
