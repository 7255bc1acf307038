// Package load plays shops full of tablets against a running Geminate, with the rhythm of real work: strokes in bursts,
// pauses, photos, gaps without the network, live streams; and reports what each took and whether anything was lost.
package load

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"sync"
	"time"
)

// Plan is what is played.
type Plan struct {
	Base    string
	Shops   []string // codes; "" is the first shop
	Tablets int      // of each shop
	Name    string   // the account's, in every shop
	Word    string   // its password
	For     time.Duration
	Seed    uint64
}

// Times are how long something took, ms.
type Times struct {
	N             int
	P50, P95, P99 float64
	Most          float64
}

// Report is how it went.
type Report struct {
	Took     time.Duration
	Tablets  int
	Stroke   Times // from the tap to the answer
	Other    Times // readings, notes, what was sent after a gap
	Photo    Times
	Open     Times          // a job and the bay read
	Live     Times          // from the tap on one tablet to the line on another
	Acked    int            // entries acknowledged
	Lost     []string       // of those, not in the log at the end
	Doubled  []string       // in the log more than once
	Unheard  int            // of those written while another listened, not heard there
	Statuses map[int]int    // answers that were no 200; 0 is none
	Problems map[string]int // why a tablet could not begin
}

// clock gathers times from many hands.
type clock struct {
	mu sync.Mutex
	ms []float64
}

func (c *clock) add(d time.Duration) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.ms = append(c.ms, float64(d.Microseconds())/1000)
}

func (c *clock) times() Times {
	c.mu.Lock()
	defer c.mu.Unlock()
	n := len(c.ms)
	if n == 0 {
		return Times{}
	}
	slices.Sort(c.ms)
	at := func(p float64) float64 { return c.ms[min(n-1, int(p*float64(n)))] }
	return Times{n, at(0.50), at(0.95), at(0.99), c.ms[n-1]}
}

// run is one going of a plan.
type run struct {
	Plan
	stroke, other, photo, open, live clock
	mu                               sync.Mutex
	statuses                         map[int]int
	problems                         map[string]int
	picture                          []byte
}

// Run plays the plan.
func Run(ctx context.Context, p Plan) (Report, error) {
	r := &run{Plan: p, statuses: map[int]int{}, problems: map[string]int{}, picture: picture(p.Seed)}
	ctx, cancel := context.WithTimeout(ctx, p.For)
	defer cancel()
	began := time.Now()
	var all sync.WaitGroup
	jobs := make([]*shared, 0, len(p.Shops)*p.Tablets/2)
	for s, code := range p.Shops {
		// Two tablets at one vehicle, as two people work: each hears what the other does.
		for t := 0; t < p.Tablets; t += 2 {
			job := &shared{code: code, ready: make(chan struct{})}
			jobs = append(jobs, job)
			for k := t; k < min(t+2, p.Tablets); k++ {
				dice := rand.New(rand.NewPCG(p.Seed, uint64(s*1000+k)))
				all.Go(func() { r.tablet(ctx, job, k == t, dice) })
			}
		}
	}
	all.Wait()
	out := Report{
		Took:     time.Since(began),
		Tablets:  len(p.Shops) * p.Tablets,
		Stroke:   r.stroke.times(),
		Other:    r.other.times(),
		Photo:    r.photo.times(),
		Open:     r.open.times(),
		Live:     r.live.times(),
		Statuses: r.statuses,
		Problems: r.problems,
	}
	for _, j := range jobs {
		if err := r.held(j, &out); err != nil {
			return out, err
		}
	}
	return out, nil
}

// shared is a vehicle two tablets work at.
type shared struct {
	code  string
	ready chan struct{} // it is open
	id    string
	hand  *hand // of who opened it, for the look at the end

	mu     sync.Mutex
	sent   map[string]time.Time // by entry
	acked  map[string]bool
	heard  map[string]bool
	ears   int // streams open
	should map[string]bool
}

// held compares what was acknowledged with the log.
func (r *run) held(j *shared, out *Report) error {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.hand == nil {
		return nil
	}
	seen, since := map[string]int{}, 0
	for {
		var page struct {
			Events []struct {
				ID  string `json:"id"`
				Seq int    `json:"seq"`
			} `json:"events"`
		}
		if status := j.hand.send(context.Background(), "GET", fmt.Sprintf("/api/jobs/%s/log?since=%d", j.id, since), nil,
			&page); status != 200 {
			return fmt.Errorf("the log of a job could not be read at the end: %d", status)
		}
		if len(page.Events) == 0 {
			break
		}
		for _, e := range page.Events {
			seen[e.ID]++
			since = e.Seq
		}
	}
	for id := range j.acked {
		out.Acked++
		switch seen[id] {
		case 0:
			out.Lost = append(out.Lost, id)
		case 1:
		default:
			out.Doubled = append(out.Doubled, id)
		}
		if j.should[id] && !j.heard[id] {
			out.Unheard++
		}
	}
	return nil
}

// hand speaks HTTP as one tablet does.
type hand struct {
	base string
	http *http.Client
	r    *run
}

func (r *run) newHand() *hand {
	jar, _ := cookiejar.New(nil) // never fails without options
	return &hand{r.Base, &http.Client{Jar: jar, Timeout: 20 * time.Second}, r}
}

// request makes one with this tablet's token.
func (h *hand) request(ctx context.Context, method, path string, body any) (*http.Request, error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	req, err := http.NewRequestWithContext(ctx, method, h.base+path, bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	req.Header.Set("Content-Type", "application/json")
	at, err := url.Parse(h.base)
	if err != nil {
		return nil, err
	}
	for _, c := range h.http.Jar.Cookies(at) {
		if c.Name == "geminate_csrf" {
			req.Header.Set("X-Csrf-Token", c.Value)
		}
	}
	return req, nil
}

// send gives the answer's status, 0 where there was none.
func (h *hand) send(ctx context.Context, method, path string, body, into any) int {
	req, err := h.request(ctx, method, path, body)
	if err != nil {
		return 0
	}
	res, err := h.http.Do(req)
	if err != nil {
		return 0
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode == 200 && into != nil && json.NewDecoder(res.Body).Decode(into) != nil {
		return 0
	}
	return res.StatusCode
}

// picture is a photo as a tablet sends one: some 60 kB that do not compress.
func picture(seed uint64) []byte {
	dice := rand.New(rand.NewPCG(seed, 1))
	im := image.NewRGBA(image.Rect(0, 0, 320, 240))
	for y := range 240 {
		for x := range 320 {
			v := uint8(dice.UintN(256))
			im.Set(x, y, color.RGBA{v, v / 2, 255 - v, 255})
		}
	}
	var b bytes.Buffer
	_ = jpeg.Encode(&b, im, &jpeg.Options{Quality: 80}) // into memory
	return b.Bytes()
}
