package server

import (
	"cmp"
	"encoding/json"
	"errors"
	"net/http"
	"regexp"
	"slices"
	"strings"

	"github.com/gofiber/fiber/v3"
	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/sheet"
	"geminate/store"
)

// The jobs: what is asked is turned into a command of the core, run under the job's lock, and what it comes to
// is answered. No rule of a job stands here.

func (s *server) bay(c *call, _ none) (Bay, error) {
	q := store.BayQuery{
		Text:     c.Query("text"),
		Standing: job.Standing(c.Query("standing")),
		Station:  c.Query("station"),
		After:    c.Query("after"),
		Limit:    bayPage,
	}
	page, err := s.Store.Bay(c.Context(), q)
	if err != nil {
		return Bay{}, err
	}
	today, err := s.today(c)
	if err != nil {
		return Bay{}, err
	}
	out := Bay{Jobs: make([]rawCard, len(page.Cards)), Next: page.Next, Counts: page.Counts}
	for i, card := range page.Cards {
		if card, err = job.CardOn(card, today); err != nil {
			return Bay{}, err
		}
		out.Jobs[i] = rawCard(card)
	}
	out.Here, err = s.Store.WhoIsAt(c.Context(), page.IDs)
	return out, err
}

const bayPage = 24

func (s *server) newJob(c *call, in NewJob) (*job.View, error) {
	intake, err := s.opensWith(c, &in)
	if err != nil {
		return nil, err
	}
	j, events, err := job.Open(c.actor(), now(),
		job.Opening{ID: cmp.Or(in.ID, uuid.NewString()), EventID: cmp.Or(in.EventID, uuid.NewString()), Intake: intake})
	if err != nil {
		return nil, err
	}
	add := func() error { return s.Store.AddJob(c.Context(), j, events, nil) }
	if in.PracticeSeed != 0 { // begun where the server could not be reached: its vehicle comes with it
		p, err := ownPractice(c.user, j.ID, &in.New)
		if err != nil {
			return nil, err
		}
		add = func() error { return s.Store.AddPractice(c.Context(), p, j, events) }
	}
	switch err := add(); {
	case errors.Is(err, store.ErrTaken) && in.ID != "": // told again: the answer had not come back
		return s.openedBefore(c, in.ID)
	case err != nil:
		return nil, err
	}
	return j.View(), nil
}

// opensWith is the intake a new job begins with: a pattern's, or another job's on the same vehicle.
func (s *server) opensWith(c *call, in *NewJob) (job.Intake, error) {
	for path, id := range map[string]string{"$.id": in.ID, "$.event_id": in.EventID} {
		if _, err := uuid.Parse(id); id != "" && err != nil {
			return job.Intake{}, system.Faults{{Path: path, Code: "fault.event_id"}}
		}
	}
	if in.From == "" {
		if err := s.maySet(c, in.System); err != nil {
			return job.Intake{}, err
		}
		return in.New.Intake()
	}
	like, err := s.Store.Job(c.Context(), in.From)
	if err != nil {
		return job.Intake{}, err
	}
	again := like.Again()
	again.Planned = in.Planned
	return again, nil
}

// openedBefore answers a job this person opened already; another's is not given away.
func (s *server) openedBefore(c *call, id string) (*job.View, error) {
	j, err := s.Store.Job(c.Context(), id)
	if err != nil {
		return nil, err
	}
	if j.OpenedBy.ID != c.user.ID {
		return nil, store.ErrTaken
	}
	return j.View(), nil
}

func (s *server) job(c *call, _ none) (json.RawMessage, error) {
	return s.Store.View(c.Context(), c.jobID())
}

// do runs a command on the request's job and wakes who watches it.
func (s *server) do(c *call, audit *store.Audit, command func(*job.Job, job.Log) ([]job.Event, error)) (json.RawMessage, error) {
	id := c.jobID()
	_, view, err := s.Store.DoView(c.Context(), id, audit, command)
	if err != nil {
		return nil, err
	}
	s.hub.poke(id)
	return view, nil
}

// precheck runs the system inside an intake through its own strict reader and holds the rest against
// the intake's rules, so that every fault is told at once, each with its path.
func (IntakeEdit) precheck(body []byte) error {
	var outer struct {
		Intake struct {
			System raw `json:"system"`
		} `json:"intake"`
	}
	var edit IntakeEdit
	if json.Unmarshal(body, &outer) != nil {
		return nil // decode says what is wrong with it
	}
	var faults system.Faults
	collect := func(err error, prefix string) {
		var f system.Faults
		if errors.As(err, &f) {
			for _, x := range f {
				x.Path = prefix + strings.TrimPrefix(x.Path, "$")
				faults = append(faults, x)
			}
		}
	}
	if s := outer.Intake.System; len(s) > 0 && string(s) != "null" {
		_, err := system.Parse(s)
		collect(err, "$.system")
	}
	if json.Unmarshal(body, &edit) == nil {
		collect(job.CheckIntake(&edit.Intake), "$")
	}
	return faults.Err()
}

func (s *server) saveIntake(c *call, in IntakeEdit) (json.RawMessage, error) {
	return s.edited(c, "edit_intake", func(j *job.Job, log job.Log) ([]job.Event, error) {
		return j.ChangeIntake(log, c.actor(), now(), uuid.NewString(), in.Version, in.Intake)
	})
}

func (s *server) saveChoices(c *call, in ChoicesEdit) (json.RawMessage, error) {
	return s.edited(c, "edit_choices", func(j *job.Job, log job.Log) ([]job.Event, error) {
		return j.ChangeChoices(log, c.actor(), now(), uuid.NewString(), in.Version, in.Choices)
	})
}

// edited answers an edit, with what is stored now where it came too late. One that changes nothing is well.
func (s *server) edited(c *call, action string, command func(*job.Job, job.Log) ([]job.Event, error)) (json.RawMessage, error) {
	var as *job.View
	v, err := s.do(c, s.auditLine(c, action, c.jobID(), nil), func(j *job.Job, log job.Log) ([]job.Event, error) {
		before := j.View()
		events, err := command(j, log)
		if errors.Is(err, job.ErrNothing) {
			return nil, nil
		}
		if err != nil {
			as = before
		}
		return events, err
	})
	var stale job.ErrStale
	if errors.As(err, &stale) {
		return nil, refuse(http.StatusConflict, Problem{Code: "problem.stale", Current: as, Clashes: stale.Clashes,
			WithMine: stale.WithMine, WithTheirs: stale.WithTheirs})
	}
	return v, err
}

// append answers the whole job: what pages did that could not fold a log, and what a program of somebody's own reads
// easily.
func (s *server) append(c *call, in EventsIn) (json.RawMessage, error) {
	view, _, err := s.appended(c, in)
	return view, err
}

// appendLog answers only what was stored: who has the log folds it himself.
func (s *server) appendLog(c *call, in EventsIn) (StoredView, error) {
	_, out, err := s.appended(c, in)
	return out, err
}

func (s *server) appended(c *call, in EventsIn) (view []byte, out StoredView, err error) {
	const most = 500
	if len(in.Events) == 0 || len(in.Events) > most {
		return nil, out, system.Faults{
			{Path: "$.events", Code: "fault.count", With: map[string]any{"value": len(in.Events), "min": 1, "max": most}},
		}
	}
	events := make([]job.In, len(in.Events))
	for i, e := range in.Events {
		events[i] = job.In{ID: e.ID, Kind: e.Kind, At: e.At, Base: e.Base, Device: e.Device, Data: e.Data.Raw}
	}
	if err := s.sources(c, events); err != nil {
		return nil, out, err
	}
	out = StoredView{ID: c.jobID()}
	var refused error
	j, view, err := s.Store.DoView(c.Context(), out.ID, nil, func(j *job.Job, log job.Log) ([]job.Event, error) {
		out.Events = []job.Event{} // a transaction that is tried again begins anew
		told, err := j.Append(log, c.actor(), now(), events)
		if refused = nil; len(told) > 0 {
			refused, err = err, nil // what came before it stands
		}
		if err == nil && len(told) < len(events) { // some were stored before: sent again, they are told again
			out.Events, err = stored(log, events)
		}
		for _, e := range told {
			out.Events = append(out.Events, e.Lean())
		}
		return told, err
	})
	if err != nil {
		return nil, StoredView{}, err
	}
	s.hub.poke(out.ID)
	out.Head = j.Head
	return view, out, refused
}

// stored are those of a list that the log has already.
func stored(log job.Log, events []job.In) ([]job.Event, error) {
	ids := make([]string, len(events))
	for i, e := range events {
		ids[i] = e.ID
	}
	found, err := log.Find(ids)
	if err != nil {
		return nil, err
	}
	out := make([]job.Event, 0, len(found))
	for _, e := range found {
		out = append(out, e.Lean())
	}
	slices.SortFunc(out, func(a, b job.Event) int { return cmp.Compare(a.Seq, b.Seq) })
	return out, nil
}

func (s *server) release(c *call, _ none) (json.RawMessage, error) {
	return s.do(c, s.auditLine(c, "release", c.jobID(), nil), func(j *job.Job, _ job.Log) ([]job.Event, error) {
		return j.Release(c.actor(), now(), uuid.NewString())
	})
}

func (s *server) reopen(c *call, in ReopenIn) (json.RawMessage, error) {
	return s.do(c, s.auditLine(c, "reopen", c.jobID(), in), func(j *job.Job, _ job.Log) ([]job.Event, error) {
		return j.Reopen(c.actor(), now(), uuid.NewString(), in.Reason)
	})
}

func (s *server) log(c *call, _ none) (LogView, error) {
	const page = 500
	since := int64(queryInt(c, "since"))
	events, err := s.Store.Log(c.Context(), c.jobID(), since, page)
	if err != nil {
		return LogView{}, err
	}
	for i := range events {
		events[i] = events[i].Lean()
	}
	return LogView{Events: events, More: len(events) == page}, nil
}

func (s *server) importJob(c *call, _ none) (*job.View, error) {
	f, err := job.ReadFile(c.BodyRaw(), now())
	if err != nil {
		return nil, err
	}
	id := uuid.NewString() // nothing is overwritten, whatever id the file gives itself
	j, events, err := job.BringIn(c.actor(), now(), f, id, uuid.NewString())
	if err != nil {
		return nil, err
	}
	if err := s.Store.AddJob(c.Context(), j, events,
		s.auditLine(c, "bring_in", id, map[string]any{"format": f.Format, "file_id": f.ID, "events": len(f.Events)})); err != nil {
		return nil, err
	}
	return j.View(), nil
}

var unsafeName = regexp.MustCompile(`[^a-zA-Z0-9]+`)

func fileName(j *job.Job, ext string) string {
	base := strings.Trim(unsafeName.ReplaceAllString(j.Intake.Vehicle+" "+j.Intake.Plate, "-"), "-")
	if base == "" {
		base = "job"
	}
	return "geminate-" + strings.ToLower(base[:min(len(base), 80)]) + ext
}

func (s *server) export(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	events, err := s.Store.Log(c.Context(), j.ID, 0, 0)
	if err != nil {
		return file{}, err
	}
	if events, err = s.Store.WithPictures(c.Context(), events); err != nil {
		return file{}, err
	}
	data, err := job.WriteFile(j, events)
	s.audit(c, "export", j.ID, nil)
	return file{fileName(j, ".json"), data}, err
}

func (s *server) sheet(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	photos, err := s.Store.Photos(c.Context(), j)
	if err != nil {
		return file{}, err
	}
	data, err := sheet.PDF(c.Context(), j, c.user.Units, now(), photos...)
	return file{fileName(j, ".pdf"), data}, err
}

// photo answers a photo's picture.
func (s *server) photo(c *call, _ none) (file, error) {
	found, err := s.Store.Events(c.Context(), c.jobID(), []string{string(append([]byte(nil), c.Params("photo")...))})
	if err != nil {
		return file{}, err
	}
	for _, e := range found {
		if p, ok := e.Body.(*job.Photographed); ok {
			jpeg, err := s.Store.Picture(c.Context(), p)
			if err != nil {
				return file{}, err
			}
			c.Set(fiber.HeaderCacheControl, "private, max-age=86400")
			return file{e.ID + ".jpg", jpeg}, nil
		}
	}
	return file{}, store.ErrNotFound
}

func (s *server) proof(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Proof(j, c.user.Units, now())
	return file{fileName(j, "-release.pdf"), data}, err
}

// wayTo is a job's address, as a code on paper carries it.
func (s *server) wayTo(c *call, j *job.Job) string {
	at := c.BaseURL() + "/jobs/" + j.ID
	if s.Secure { // TLS ends before the web application sees the request
		at = "https://" + strings.SplitN(at, "://", 2)[1]
	}
	return at
}

func (s *server) tag(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Tag(j, s.wayTo(c, j), now())
	return file{fileName(j, "-tag.pdf"), data}, err
}

func (s *server) labels(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Labels(j, c.user.Units, s.wayTo(c, j), now())
	return file{fileName(j, "-labels.pdf"), data}, err
}

func (s *server) target(c *call, _ none) (file, error) {
	shop, err := s.Store.Settings(c.Context())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Target(shop.Language, shop.Paper)
	return file{"geminate-target.pdf", data}, err
}

func (s *server) warranty(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Warranty(c.Context(), j, c.user.Units, now())
	return file{fileName(j, "-warranty.pdf"), data}, err
}

func (s *server) auditLines(c *call, _ none) (AuditView, error) {
	const page = 100
	lines, err := s.Store.AuditLines(c.Context(), int64(queryInt(c, "before")), c.Query("job"), c.Query("action"), page)
	return AuditView{Lines: lines, More: len(lines) == page}, err
}
