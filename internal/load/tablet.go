package load

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"

	"geminate/brake/job"
)

// The rhythm of a tablet, as a bleed has it: from memory of how the work goes, not measured.
const (
	strokeEach  = 2 * time.Second  // a stroke, give or take
	burstLeast  = 8                // strokes of a burst
	burstMost   = 20               //
	pauseLeast  = 5 * time.Second  // to the next wheel, the next step
	pauseMost   = 25 * time.Second //
	gapChance   = 0.12             // of a pause that is one without the network
	photoChance = 0.10             // of a pause in which a photo is taken
)

var wheels = []string{"RR", "LR", "RF", "LF"}

type entry struct {
	ID   string         `json:"id"`
	Kind job.Kind       `json:"kind"`
	At   time.Time      `json:"at"`
	Data map[string]any `json:"data"`
}

func newEntry(kind job.Kind, data map[string]any) entry {
	return entry{uuid.NewString(), kind, time.Now().UTC(), data}
}

// tablet signs in, opens its vehicle or comes to it, and works until the time is over.
func (r *run) tablet(ctx context.Context, j *shared, first bool, dice *rand.Rand) {
	h := r.newHand()
	wait(ctx, time.Duration(dice.Int64N(int64(10*time.Second)))) // a morning, not a starting gun
	if !r.signIn(ctx, h, j.code) {
		if first {
			close(j.ready)
		}
		return
	}
	if first {
		r.openJob(ctx, h, j)
		close(j.ready)
	}
	select {
	case <-ctx.Done():
		return
	case <-j.ready:
	}
	if j.id == "" {
		return
	}
	go r.listen(ctx, h, j)
	for ctx.Err() == nil {
		r.burst(ctx, h, j, dice)
		switch p := dice.Float64(); {
		case p < gapChance:
			r.gap(ctx, h, j, dice)
		case p < gapChance+photoChance:
			e := newEntry(job.KindPhoto, map[string]any{"jpeg": r.picture, "note": "seen"})
			r.tell(ctx, h, j, &r.photo, e)
		}
		r.look(ctx, h, j)
		wait(ctx, pauseLeast+time.Duration(dice.Int64N(int64(pauseMost-pauseLeast))))
	}
}

// signIn waits where the shop asks to: the server paces sign-ins.
func (r *run) signIn(ctx context.Context, h *hand, code string) bool {
	body := map[string]any{"name": r.Name, "password": r.Word}
	if code != "" {
		body["shop"] = code
	}
	status := 0
	for try := 0; try < 60 && ctx.Err() == nil; try++ {
		if status = h.send(ctx, "POST", "/api/session", body, nil); status == 200 {
			return true
		}
		wait(ctx, time.Second)
	}
	r.problem(fmt.Sprintf("sign in to %q: %d", code, status))
	return false
}

func (r *run) openJob(ctx context.Context, h *hand, j *shared) {
	var out struct{ ID string }
	body := map[string]any{"vehicle": "Load", "plate": "", "customer": "", "complaint": "soft", "pattern": "car-front-rear-vacuum"}
	if status := h.send(ctx, "POST", "/api/jobs", body, &out); status != 200 {
		r.problem(fmt.Sprintf("open a job: %d", status))
		return
	}
	j.id, j.hand = out.ID, h
	j.sent, j.acked, j.heard, j.should = map[string]time.Time{}, map[string]bool{}, map[string]bool{}, map[string]bool{}
}

// burst is the strokes of one wheel, one by one.
func (r *run) burst(ctx context.Context, h *hand, j *shared, dice *rand.Rand) {
	wheel := wheels[dice.IntN(len(wheels))]
	for range burstLeast + dice.IntN(burstMost-burstLeast) {
		if ctx.Err() != nil {
			return
		}
		r.tell(ctx, h, j, &r.stroke, newEntry(job.KindBleedStroke, map[string]any{"wheel": wheel}))
		wait(ctx, strokeEach/2+time.Duration(dice.Int64N(int64(strokeEach))))
	}
	r.tell(ctx, h, j, &r.other, newEntry(job.KindNote, map[string]any{"text": "clear at " + wheel}))
}

// gap is a time without the network: what was done in it is sent at once after.
func (r *run) gap(ctx context.Context, h *hand, j *shared, dice *rand.Rand) {
	var waiting []entry
	for range 5 + dice.IntN(15) {
		waiting = append(waiting, newEntry(job.KindNote, map[string]any{"text": "done with no network"}))
		wait(ctx, strokeEach)
	}
	r.tell(ctx, h, j, &r.other, waiting...)
}

func (r *run) look(ctx context.Context, h *hand, j *shared) {
	began := time.Now()
	if status := h.send(ctx, "GET", "/api/jobs/"+j.id, nil, nil); r.count(ctx, status) {
		r.open.add(time.Since(began))
	}
	began = time.Now()
	if status := h.send(ctx, "GET", "/api/jobs", nil, nil); r.count(ctx, status) {
		r.open.add(time.Since(began))
	}
}

// tell sends entries until they are acknowledged, as the page does: again and again under the same ids.
func (r *run) tell(ctx context.Context, h *hand, j *shared, c *clock, list ...entry) {
	if len(list) == 0 {
		return
	}
	began := time.Now()
	j.mu.Lock()
	for _, e := range list {
		j.sent[e.ID] = began
		j.should[e.ID] = j.ears == 2
	}
	j.mu.Unlock()
	for {
		status := h.send(ctx, "POST", "/api/jobs/"+j.id+"/log", map[string]any{"events": list}, nil)
		if r.count(ctx, status) {
			break
		}
		if ctx.Err() != nil || status >= 400 && status < 500 && status != 429 {
			return
		}
		wait(ctx, time.Second)
	}
	c.add(time.Since(began))
	j.mu.Lock()
	defer j.mu.Unlock()
	for _, e := range list {
		j.acked[e.ID] = true
	}
}

// listen keeps the live stream open; what comes of the other's is timed from its tap.
func (r *run) listen(ctx context.Context, h *hand, j *shared) {
	stream := &http.Client{Jar: h.http.Jar}
	since, tab := 0, uuid.NewString()
	for ctx.Err() == nil {
		req, err := h.request(ctx, "GET", fmt.Sprintf("/api/jobs/%s/live?tab=%s&since=%d", j.id, tab, since), nil)
		if err != nil {
			return
		}
		res, err := stream.Do(req)
		if err != nil || res.StatusCode != 200 {
			if err == nil {
				_ = res.Body.Close()
				r.count(ctx, res.StatusCode)
			}
			wait(ctx, time.Second)
			continue
		}
		j.hear(1)
		lines := bufio.NewScanner(res.Body)
		lines.Buffer(make([]byte, 64<<10), 4<<20)
		for lines.Scan() {
			raw, isData := strings.CutPrefix(lines.Text(), "data: ")
			var e struct {
				ID  string `json:"id"`
				Seq int    `json:"seq"`
			}
			if !isData || json.Unmarshal([]byte(raw), &e) != nil || e.ID == "" {
				continue
			}
			since = max(since, e.Seq)
			j.mu.Lock()
			at, known := j.sent[e.ID]
			fresh := known && !j.heard[e.ID]
			if fresh {
				j.heard[e.ID] = true
			}
			j.mu.Unlock()
			if fresh {
				r.live.add(time.Since(at))
			}
		}
		_ = res.Body.Close()
		j.hear(-1)
	}
}

func (j *shared) hear(n int) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.ears += n
}

// count takes an answer down; what broke off because the time was over is none.
func (r *run) count(ctx context.Context, status int) bool {
	if status == 200 || ctx.Err() != nil {
		return status == 200
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.statuses[status]++
	return false
}

func (r *run) problem(what string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.problems[what]++
}

func wait(ctx context.Context, d time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(d):
	}
}
