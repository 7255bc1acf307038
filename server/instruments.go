package server

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/brake/trace"
	"geminate/instrument"
	"geminate/store"
	"geminate/trust"
)

// Instruments speak for themselves: by HTTP with a secret of their own, or by the broker. What they tell is held for
// two minutes, shown at the job they belong to, and taken from there by one tap or as a trace.

// feeds are the instruments that have spoken to this server.
type feeds struct {
	mu   sync.Mutex
	each map[string]*instrument.Feed
}

func (f *feeds) of(id string) *instrument.Feed {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.each == nil {
		f.each = map[string]*instrument.Feed{}
	}
	if f.each[id] == nil {
		f.each[id] = instrument.NewFeed()
	}
	return f.each[id]
}

// InstrumentIn adds one.
type InstrumentIn struct {
	Kind         trace.Kind `json:"kind"`
	Name         string     `json:"name"`
	Accuracy     *float64   `json:"accuracy,omitempty"`
	CalibratedOn string     `json:"calibrated_on,omitempty"`
	CalibratedBy string     `json:"calibrated_by,omitempty"`
	HoldsUntil   string     `json:"holds_until,omitempty"`
}

// InstrumentView is one as the page shows it.
type InstrumentView struct {
	ID   string     `json:"id"`
	Kind trace.Kind `json:"kind"`
	Name string     `json:"name"`
	Job  string     `json:"job"` // it belongs to, "" to none
	// AttachedAt is since when; null at none. Speaks: of two of a kind at one job the one that came last.
	AttachedAt *time.Time          `json:"attached_at"`
	Speaks     bool                `json:"speaks"`
	HoldsUntil string              `json:"holds_until"`
	OutOfDate  bool                `json:"out_of_date"`
	Measure    trace.Measure       `json:"measure"`
	Last       *instrument.Reading `json:"last"` // null where it has not spoken lately
	Counts     instrument.Counts   `json:"counts"`
	Problem    instrument.Problem  `json:"problem,omitempty"`
}

// InstrumentNew is a new one with its secret, which is told once.
type InstrumentNew struct {
	InstrumentView
	Secret string `json:"secret"`
	Topic  string `json:"topic"`
	// Code is name, secret and topic as a QR code, an SVG drawing.
	Code string `json:"code"`
}

func (in *InstrumentIn) check() error {
	var f system.Faults
	if _, known := trace.MeasureOf(in.Kind); !known {
		f = append(f,
			system.Fault{Path: "$.kind", Code: "fault.enum", With: map[string]any{"value": in.Kind, "allowed": trace.KindNames()}})
	}
	if n := len([]rune(strings.TrimSpace(in.Name))); n == 0 || n > 100 {
		f = append(f, system.Fault{Path: "$.name", Code: "fault.missing"})
	}
	for path, day := range map[string]string{"$.calibrated_on": in.CalibratedOn, "$.holds_until": in.HoldsUntil} {
		if _, err := time.Parse(time.DateOnly, day); day != "" && err != nil {
			f = append(f, system.Fault{Path: path, Code: "fault.date", With: map[string]any{"value": day}})
		}
	}
	if len([]rune(in.CalibratedBy)) > 100 {
		f = append(f, system.Fault{Path: "$.calibrated_by", Code: "fault.too_long", With: map[string]any{"max": 100}})
	}
	return f.Err()
}

func (s *server) instrumentView(i *store.Instrument) InstrumentView {
	m, _ := trace.MeasureOf(i.Kind)
	out := InstrumentView{
		ID:         i.ID,
		Kind:       i.Kind,
		Name:       i.Name,
		HoldsUntil: i.HoldsUntil,
		OutOfDate:  (&job.Measured{HoldsUntil: i.HoldsUntil}).OutOfDate(now()),
		Measure:    m,
	}
	if i.JobID != nil {
		out.Job = *i.JobID
		out.AttachedAt = &i.AttachedAt
	}
	if r, counts, problem, ok := s.feeds.of(i.ID).Last(); ok || counts.Refused > 0 {
		out.Counts, out.Problem = counts, problem
		if ok {
			out.Last = &r
		}
	}
	return out
}

func (s *server) instruments(c *call, _ none) ([]InstrumentView, error) {
	list, err := s.Store.Instruments(c.Context())
	out := []InstrumentView{}
	for i := range list {
		if standInLeft(&list[i]) {
			if err := s.Store.DropInstrument(c.Context(), list[i].ID); err != nil {
				return out, err
			}
			continue
		}
		v := s.instrumentView(&list[i])
		v.Speaks = speaks(list, &list[i])
		out = append(out, v)
	}
	return out, err
}

// speaks says whether an instrument is the one of its kind at its job: the one that came last.
func speaks(list []store.Instrument, i *store.Instrument) bool {
	return i.JobID != nil && !slices.ContainsFunc(list, func(x store.Instrument) bool {
		return x.ID != i.ID && x.Kind == i.Kind && x.JobID != nil && *x.JobID == *i.JobID && x.AttachedAt.After(i.AttachedAt)
	})
}

// topicOf is where an instrument publishes by the broker, and nowhere else.
func topicOf(id string) string { return "geminate/" + id }

func (s *server) addInstrument(c *call, in InstrumentIn) (InstrumentNew, error) {
	if err := in.check(); err != nil {
		return InstrumentNew{}, err
	}
	i := &store.Instrument{
		ID:           uuid.NewString(),
		Kind:         in.Kind,
		Name:         strings.TrimSpace(in.Name),
		Accuracy:     in.Accuracy,
		CalibratedOn: in.CalibratedOn,
		CalibratedBy: in.CalibratedBy,
		HoldsUntil:   in.HoldsUntil,
		AddedBy:      c.user.Display,
		AddedAt:      now(),
	}
	secret := s.newPass()
	if err := s.Store.AddInstrument(c.Context(), i, secret); err != nil {
		return InstrumentNew{}, err
	}
	s.audit(c, "instrument_added", "", map[string]string{"instrument": i.Name, "kind": string(i.Kind)})
	out := InstrumentNew{InstrumentView: s.instrumentView(i), Secret: secret, Topic: topicOf(i.ID)}
	raw, err := json.Marshal(map[string]string{"id": i.ID, "secret": secret, "topic": out.Topic})
	if err != nil {
		return out, err
	}
	out.Code, err = trust.SVG(string(raw))
	return out, err
}

func (s *server) dropInstrument(c *call, _ none) (none, error) {
	s.audit(c, "instrument_dropped", "", map[string]string{"instrument": c.jobID()})
	return none{}, s.Store.DropInstrument(c.Context(), c.jobID())
}

// AttachIn gives an instrument to a job; "" to none.
type AttachIn struct {
	Job string `json:"job"`
}

func (s *server) attachInstrument(c *call, in AttachIn) (none, error) {
	var to *string
	if in.Job != "" {
		if err := s.isThere(c.Ctx, in.Job); err != nil {
			return none{}, err
		}
		to = &in.Job
	}
	return none{}, s.Store.AttachInstrument(c.Context(), c.jobID(), to, time.Now().UTC())
}

// PackIn is a SenML pack (RFC 8428): a list of records. It is read only where there is time for it.
type PackIn []json.RawMessage

// UnmarshalJSON keeps it as it came.
func (p *PackIn) UnmarshalJSON(raw []byte) error {
	*p = PackIn{append(json.RawMessage(nil), raw...)}
	return nil
}

// packMost bytes of a pack.
const packMost = anonymousMost

// ReadingsOut says what became of a pack.
type ReadingsOut struct {
	instrument.Counts
	Problem instrument.Problem `json:"problem,omitempty"`
}

// readings takes a pack from an instrument by its secret.
func (s *server) readings(c *call, in PackIn) (ReadingsOut, error) {
	if len(in) == 0 {
		return ReadingsOut{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.senml"})
	}
	return s.told(c.Context(), strings.TrimPrefix(c.Get(fiber.HeaderAuthorization), "Bearer "), in[0])
}

// told lays a pack in.
func (s *server) told(ctx context.Context, secret string, raw []byte) (ReadingsOut, error) {
	if secret == "" || len(secret) > 100 {
		return ReadingsOut{}, fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	leave, ok := s.packs.enter(secret, len(raw), time.Now())
	if !ok {
		return ReadingsOut{}, fiber.NewError(http.StatusTooManyRequests, "problem.too_many_packs")
	}
	defer leave()
	i, err := s.Store.InstrumentBy(ctx, secret)
	if errors.Is(err, store.ErrNotFound) {
		return ReadingsOut{}, fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	if err != nil {
		return ReadingsOut{}, err
	}
	return s.lay(i, raw)
}

// packs bounds what one secret may tell before anything of it is looked at: so many at a time, packs and bytes a
// second. An instrument needs one, five and some kilobytes.
type packs struct {
	mu sync.Mutex
	by map[string]*packOf
}

type packOf struct {
	now          int // in hand
	packs, bytes float64
	at           time.Time
}

const (
	packsAtOnce  = 2
	packsASecond = 20
	bytesASecond = 96 << 10
	packsFor     = 4.0  // seconds of them may come at once: what was held back
	packsKept    = 5000 // secrets
)

// enter lets a pack of so many bytes in, until leave.
func (p *packs) enter(secret string, bytes int, at time.Time) (leave func(), ok bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.by == nil || len(p.by) >= packsKept {
		p.by = map[string]*packOf{}
	}
	o := p.by[secret]
	if o == nil {
		o = &packOf{packs: packsFor * packsASecond, bytes: packsFor * bytesASecond, at: at}
		p.by[secret] = o
	}
	s := max(0, at.Sub(o.at).Seconds())
	o.at = at
	o.packs, o.bytes = min(packsFor*packsASecond, o.packs+s*packsASecond), min(packsFor*bytesASecond, o.bytes+s*bytesASecond)
	if o.now >= packsAtOnce || o.packs < 1 || o.bytes < float64(bytes) {
		return nil, false
	}
	o.now, o.packs, o.bytes = o.now+1, o.packs-1, o.bytes-float64(bytes)
	return func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		o.now--
	}, true
}

// LinesIn are lines an instrument said on a cable of the device that is at the vehicle.
type LinesIn struct {
	Lines []LineIn `json:"lines"`
}

// LineIn is one of them.
type LineIn struct {
	AgoS float64 `json:"ago_s"` // it was read so long ago, s
	Text string  `json:"text"`
}

// linesMost at once.
const linesMost = 400

// instrumentLines takes readings of an instrument that hangs on a cable, from whoever works with it.
func (s *server) instrumentLines(c *call, in LinesIn) (ReadingsOut, error) {
	if len(in.Lines) > linesMost {
		return ReadingsOut{}, system.Faults{
			{Path: "$.lines", Code: "fault.count", With: map[string]any{"value": len(in.Lines), "min": 0, "max": linesMost}},
		}
	}
	i, err := s.Store.InstrumentOf(c.Context(), c.jobID())
	if err != nil {
		return ReadingsOut{}, err
	}
	m, _ := trace.MeasureOf(i.Kind)
	f, at := s.feeds.of(i.ID), time.Now().UTC()
	var records []instrument.Record
	for _, l := range in.Lines {
		if !(l.AgoS >= 0 && l.AgoS <= 120) {
			return ReadingsOut{}, system.Faults{
				{Path: "$.lines.ago_s", Code: "fault.range", With: map[string]any{"value": l.AgoS, "min": 0, "max": 120}},
			}
		}
		r, err := instrument.Line(m, l.Text, at.Add(-time.Duration(l.AgoS*float64(time.Second))))
		if err != nil {
			f.Refuse(instrument.ProblemOf(err))
			continue
		}
		records = append(records, r)
	}
	if len(records) > 0 {
		f.Take(m, records, at)
	}
	_, counts, problem, _ := f.Last()
	return ReadingsOut{counts, problem}, nil
}

func (s *server) lay(i *store.Instrument, raw []byte) (ReadingsOut, error) {
	at := time.Now().UTC()
	records, err := instrument.ReadPack(raw, at)
	if err != nil {
		s.feeds.of(i.ID).Refuse(instrument.NoPack)
		return ReadingsOut{}, refuse(http.StatusUnprocessableEntity, Problem{Code: "problem.senml", Detail: err.Error()})
	}
	m, _ := trace.MeasureOf(i.Kind)
	f := s.feeds.of(i.ID)
	f.Take(m, records, at)
	_, counts, problem, _ := f.Last()
	return ReadingsOut{counts, problem}, nil
}

// knownFor is how long an instrument that is signed in at the broker is believed to be one still.
const knownFor = 10 * time.Second

// Known implements instrument.Listening: the secret says which shop.
func (h *house) Known(ctx context.Context, id, secret string) (take func([]byte), ok bool) {
	s, err := h.of(ctx, codeOfPass(secret))
	if err != nil {
		return nil, false
	}
	i, err := s.Store.InstrumentBy(ctx, secret)
	if err != nil || i.ID != id || !s.brokerOn(ctx) {
		return nil, false
	}
	seen := time.Now()
	return func(pack []byte) {
		leave, in := s.packs.enter(secret, len(pack), time.Now())
		if !in {
			s.feeds.of(i.ID).Refuse(instrument.TooManyAtOnce)
			return
		}
		defer leave()
		if time.Since(seen) > knownFor {
			ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
			defer cancel()
			if _, err := s.Store.InstrumentBy(ctx, secret); errors.Is(err, store.ErrNotFound) || !s.brokerOn(ctx) {
				return // taken away meanwhile, or the broker is off
			}
			seen = time.Now()
		}
		if _, err := s.lay(i, pack); err != nil {
			s.Log.Warn("instrument", "instrument", i.Name, "error", err)
		}
	}, true
}

// brokerOn says whether the lead lets instruments in by the broker. A database that is away lets nobody new in.
func (s *server) brokerOn(ctx context.Context) bool {
	set, err := s.Store.Settings(ctx)
	return err == nil && set.Broker
}

// attached are a job's instruments.
func (s *server) attached(ctx context.Context, jobID string) ([]store.Instrument, error) {
	list, err := s.Store.Instruments(ctx)
	return slices.DeleteFunc(list, func(i store.Instrument) bool { return i.JobID == nil || *i.JobID != jobID }), err
}

// liveEvery is how often figures are told at the most: as quick as an eye reads.
const liveEvery = 60 * time.Millisecond

// liveFigure is one in the stream.
type liveFigure struct {
	ID   string    `json:"id"`
	V    float64   `json:"v"`
	Text string    `json:"text,omitempty"`
	At   time.Time `json:"at"`
	// AgeS is how old it was when it was told, s: what one left lying is told as soon as somebody listens.
	AgeS float64 `json:"age_s"`
}

// figuresLive streams the figures of a job's instruments.
func (s *server) figuresLive(c fiber.Ctx) error {
	v, err := s.signedIn(c)
	if err != nil {
		return err
	}
	if err := s.mayWatch(c, v.user); err != nil {
		return err
	}
	id := strings.Clone(c.Params("id"))
	list, err := s.attached(c.Context(), id)
	if err != nil {
		return err
	}
	_, leave, ok := s.hub.watch(id, v.user.ID, shareOf(v.user))
	if !ok {
		return fiber.NewError(http.StatusServiceUnavailable, "problem.busy")
	}
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no")
	who := listenerOf(c, v)
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer leave()
		s.tellFigures(w, id, list, who)
	})
}

// tellFigures tells until the screen is gone, signed out, or an instrument came to this job or was taken from it: then
// the screen asks anew, so that no bay sees another's figures for longer than it takes to look.
func (s *server) tellFigures(w *bufio.Writer, jobID string, list []store.Instrument, who listener) {
	any := make(chan struct{}, 1)
	for i := range list {
		wake, stop := s.feeds.of(list[i].ID).Watch()
		go func() {
			for range wake {
				select {
				case any <- struct{}{}:
				default:
				}
			}
		}()
		defer func() { stop(); close(wake) }() // nobody sends any more, then
	}
	told := map[string]time.Time{}
	alive := time.NewTicker(hereEvery)
	defer alive.Stop()
	for {
		var figures []liveFigure
		for i := range list {
			if r, _, _, ok := s.feeds.of(list[i].ID).Last(); ok && r.At != told[list[i].ID] && !r.At.Before(list[i].AttachedAt) {
				told[list[i].ID] = r.At
				figures = append(figures,
					liveFigure{list[i].ID, math.Round(1e4*r.V) / 1e4, r.Text, r.At, math.Round(10*time.Since(r.At).Seconds()) / 10})
			}
		}
		line := ": here\n\n"
		if len(figures) > 0 {
			raw, _ := json.Marshal(figures)
			line = fmt.Sprintf("event: figures\ndata: %s\n\n", raw)
		}
		if _, err := w.WriteString(line); err != nil || w.Flush() != nil {
			return
		}
		time.Sleep(liveEvery)
		select {
		case <-s.life.Done():
			return
		case <-any:
		case <-alive.C:
			if !s.listens(who) {
				return
			}
			if s.changedHands(jobID, list) {
				_, _ = w.WriteString("event: changed\ndata: 1\n\n") // the stream ends either way
				_ = w.Flush()
				return
			}
		}
	}
}

// changedHands says whether a job's instruments are no longer those of a list. A database that is away decides nothing.
func (s *server) changedHands(jobID string, list []store.Instrument) bool {
	ctx, cancel := context.WithTimeout(s.life, 2*time.Second)
	defer cancel()
	now, err := s.attached(ctx, jobID)
	return err == nil &&
		!slices.EqualFunc(now, list, func(a, b store.Instrument) bool { return a.ID == b.ID && a.AttachedAt.Equal(b.AttachedAt) })
}
