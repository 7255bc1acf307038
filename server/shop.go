package server

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/store"
	"geminate/words"
)

// The shop around the jobs: settings, vehicles, what is due, what it learned, what it gives out.

func (s *server) settings(c *call, _ none) (job.Settings, error) {
	return s.Store.Settings(c.Context())
}

func (s *server) setSettings(c *call, in job.Settings) (job.Settings, error) {
	if err := in.Check(); err != nil {
		return in, err
	}
	if in.Language != "" && !slices.Contains(words.Languages, in.Language) {
		return in, system.Faults{
			{
				Path: "$.language",
				Code: "fault.enum",
				With: map[string]any{"value": in.Language, "allowed": strings.Join(words.Languages, ", ")},
			},
		}
	}
	if _, err := time.LoadLocation(in.Zone); err != nil {
		return in, system.Faults{{Path: "$.zone", Code: "fault.zone", With: map[string]any{"value": in.Zone}}}
	}
	return in, s.Store.PutSettings(c.Context(), in, s.auditLine(c, "settings", "", nil))
}

type textAsked struct {
	Text string `query:"text"`
}

func (s *server) vehicles(c *call, _ none) ([]store.Vehicle, error) {
	return s.Store.FindVehicles(c.Context(), strings.Clone(c.Query("text")), 50)
}

// VehicleView is one vehicle with its life in this shop.
type VehicleView struct {
	store.Vehicle
	Jobs   []store.VehicleJob `json:"jobs"`
	Joined []store.Vehicle    `json:"joined"`
	Water  job.WaterLine      `json:"water"`
	// System is as it was last corrected, null where there is none; PedalFrom the day its known-good pedal is from, ""
	// without.
	System    *system.System `json:"system"`
	PedalFrom string         `json:"pedal_from"`
}

func (s *server) vehicle(c *call, _ none) (*VehicleView, error) {
	v, jobs, err := s.Store.Vehicle(c.Context(), c.jobID())
	if err != nil {
		return nil, err
	}
	out := &VehicleView{Vehicle: *v, Jobs: jobs}
	if out.Joined, err = s.Store.Joined(c.Context(), v.ID); err != nil {
		return nil, err
	}
	var facts []job.Facts
	for _, j := range slices.Backward(jobs) {
		var f job.Facts
		if json.Unmarshal(j.Facts, &f) == nil {
			f.OpenedAt = j.OpenedAt
			facts = append(facts, f)
		}
	}
	out.Water = job.Water(facts)
	if len(jobs) > 0 {
		last, err := s.Store.Job(c.Context(), jobs[0].ID)
		if err == nil {
			out.System, out.PedalFrom = last.KnownSystem()
		}
	}
	return out, nil
}

// JoinIn names the entry another is joined to.
type JoinIn struct {
	Into string `json:"into"`
}

func (s *server) joinVehicle(c *call, in JoinIn) (none, error) {
	return none{}, s.Store.JoinVehicles(c.Context(), c.jobID(), in.Into,
		s.auditLine(c, "vehicle_joined", "", map[string]string{"vehicle": c.jobID(), "into": in.Into}))
}

func (s *server) partVehicle(c *call, _ none) (none, error) {
	return none{}, s.Store.PartVehicle(c.Context(), c.jobID(),
		s.auditLine(c, "vehicle_parted", "", map[string]string{"vehicle": c.jobID()}))
}

type dueAsked struct {
	Weeks int `query:"weeks"`
}

// due lists what is due from long ago up to some weeks from now.
func (s *server) due(c *call, _ none) ([]store.Vehicle, error) {
	weeks := min(520, max(1, queryInt(c, "weeks")))
	return s.Store.Due(c.Context(), now().AddDate(-10, 0, 0), now().AddDate(0, 0, 7*weeks), 500)
}

// calendar writes vehicles as events of a day, RFC 5545.
// today is the day it is in the shop, yyyy-mm-dd.
func (s *server) today(c *call) (string, error) {
	set, err := s.Store.Settings(c.Context())
	if err != nil {
		return "", err
	}
	zone, err := time.LoadLocation(set.Zone)
	if err != nil {
		zone = time.UTC
	}
	return now().In(zone).Format(time.DateOnly), nil
}

// putDown are the jobs that are to come in, as the calendar writes them.
func (s *server) putDown(c *call) ([]job.Card, error) {
	today, err := s.today(c)
	if err != nil {
		return nil, err
	}
	raw, err := s.Store.PutDown(c.Context(), today, 1000)
	out := make([]job.Card, len(raw))
	for i := range raw {
		err = errors.Join(err, json.Unmarshal(raw[i], &out[i]))
	}
	return out, err
}

func calendar(list []store.Vehicle, jobs []job.Card, base string) []byte {
	var b bytes.Buffer
	line := func(text string) {
		for len(text) > 73 { // folded as the format asks, between bytes of ASCII
			cut := 73
			for cut > 1 && text[cut]&0xC0 == 0x80 {
				cut--
			}
			b.WriteString(text[:cut] + "\r\n ")
			text = text[cut:]
		}
		b.WriteString(text + "\r\n")
	}
	esc := strings.NewReplacer("\\", "\\\\", ";", "\\;", ",", "\\,", "\n", "\\n", "\r", "")
	line("BEGIN:VCALENDAR")
	line("VERSION:2.0")
	line("PRODID:-//Geminate//EN")
	for _, v := range list {
		if v.DueAt == nil {
			continue
		}
		line("BEGIN:VEVENT")
		line("UID:" + v.ID + "@geminate")
		line("DTSTAMP:" + v.UpdatedAt.UTC().Format("20060102T150405Z"))
		line("DTSTART;VALUE=DATE:" + v.DueAt.Format("20060102"))
		line("SUMMARY:" + esc.Replace(words.T("due.fluid", map[string]any{"vehicle": strings.TrimSpace(v.Name + " " + v.Plate)})))
		line("URL:" + base + "/vehicles/" + v.ID)
		line("END:VEVENT")
	}
	for _, j := range jobs {
		line("BEGIN:VEVENT")
		line("UID:" + j.ID + "@geminate")
		line("DTSTAMP:" + j.UpdatedAt.UTC().Format("20060102T150405Z"))
		line("DTSTART;VALUE=DATE:" + strings.ReplaceAll(j.ForDay, "-", ""))
		line("SUMMARY:" + esc.Replace(strings.TrimSpace(j.Vehicle+" "+j.Plate)+": "+j.Complaint))
		if j.HaveReady != "" {
			line("DESCRIPTION:" + esc.Replace(j.HaveReady))
		}
		line("URL:" + base + "/jobs/" + j.ID)
		line("END:VEVENT")
	}
	line("END:VCALENDAR")
	return b.Bytes()
}

func (s *server) vehicleCalendar(c *call, _ none) (file, error) {
	v, _, err := s.Store.Vehicle(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	return file{"due.ics", calendar([]store.Vehicle{*v}, nil, c.BaseURL())}, nil
}

// shopCalendar is for calendar programs, which sign in by a read token in the address.
func (s *server) shopCalendar(c *call, _ none) (file, error) {
	if err := s.tokened(c, c.Query("token")); err != nil {
		return file{}, err
	}
	list, err := s.Store.Due(c.Context(), now().AddDate(-1, 0, 0), now().AddDate(4, 0, 0), 5000)
	if err != nil {
		return file{}, err
	}
	jobs, err := s.putDown(c)
	return file{"due.ics", calendar(list, jobs, c.BaseURL())}, err
}

// bottlesMost are offered to be picked from.
const bottlesMost = 6

// bottles are those this shop has open: named on a job, opened no longer ago than it allows.
func (s *server) bottles(c *call, _ none) ([]job.Bottle, error) {
	set, err := s.Store.Settings(c.Context())
	if err != nil {
		return nil, err
	}
	return s.Store.Bottles(c.Context(), now().AddDate(0, 0, -set.BottleDays), bottlesMost)
}

// ── what goes out ──

// outMost rows of one export.
const outMost = 200_000

// Exports are what can be had as a table or as JSON.
var Exports = []string{"jobs", "vehicles", "units", "fluids", "statistics"}

type outAsked struct {
	Token string `query:"token"`
}

// out gives a table to the shop's own scripts: whoever is signed in, or a read token.
func (s *server) out(c *call, _ none) (file, error) {
	what, kind, ok := strings.Cut(c.Params("pass"), ".")
	if !ok || kind != "csv" && kind != "json" {
		return file{}, store.ErrNotFound
	}
	v, err := s.visitor(c)
	if err != nil {
		return file{}, err
	}
	if v == nil || !v.user.Role.May(job.ReadJobs) {
		token := strings.TrimPrefix(c.Get(fiber.HeaderAuthorization), "Bearer ")
		if err := s.tokened(c, token); err != nil {
			return file{}, err
		}
	}
	head, rows, err := s.Store.Table(c.Context(), what, outMost)
	if err != nil {
		return file{}, err
	}
	var b bytes.Buffer
	if kind == "json" {
		list := make([]map[string]string, len(rows))
		for i, r := range rows {
			list[i] = map[string]string{}
			for k, h := range head {
				list[i][h] = r[k]
			}
		}
		err = json.NewEncoder(&b).Encode(map[string]any{"format": "geminate." + what + "/1", what: list})
	} else {
		w := csv.NewWriter(&b)
		_ = w.Write(head)
		for _, r := range rows {
			for k := range r {
				r[k] = calm(r[k])
			}
			_ = w.Write(r)
		}
		w.Flush()
		err = w.Error()
	}
	c.Set(fiber.HeaderContentType, map[string]string{"csv": "text/csv; charset=utf-8", "json": fiber.MIMEApplicationJSONCharsetUTF8}[kind])
	return file{what + "." + kind, b.Bytes()}, err
}

// calm keeps a spreadsheet from running what somebody typed as a formula.
func calm(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// ── read tokens ──

// TokenIn names one.
type TokenIn struct {
	Name string `json:"name"`
}

// TokenOut is a new one; its secret is told once.
type TokenOut struct {
	store.ReadToken
	Secret string `json:"secret"`
}

func (s *server) tokens(c *call, _ none) ([]store.ReadToken, error) {
	return s.Store.ReadTokens(c.Context())
}

func (s *server) addToken(c *call, in TokenIn) (TokenOut, error) {
	name := strings.TrimSpace(in.Name)
	if name == "" || len(name) > 100 {
		return TokenOut{}, system.Faults{{Path: "$.name", Code: "fault.missing"}}
	}
	secret := s.newPass()
	t, err := s.Store.AddReadToken(c.Context(), name, secret, c.user.Display)
	if err != nil {
		return TokenOut{}, err
	}
	s.audit(c, "token_added", "", map[string]string{"token": name})
	return TokenOut{*t, secret}, nil
}

func (s *server) revokeToken(c *call, _ none) (none, error) {
	s.audit(c, "token_revoked", "", map[string]string{"token": c.jobID()})
	return none{}, s.Store.RevokeReadToken(c.Context(), c.jobID())
}

// tokened lets a read token in.
func (s *server) tokened(c *call, secret string) error {
	if secret == "" || len(secret) > 100 {
		return fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	t, fresh, err := s.Store.UseReadToken(c.Context(), secret)
	if errors.Is(err, store.ErrNotFound) {
		return fiber.NewError(http.StatusUnauthorized, "problem.signed_out")
	}
	if err == nil && fresh {
		s.audit(c, "token_used", "", map[string]string{"token": t.Name})
	}
	return err
}

// forget takes a customer's name and words out of a job, everywhere they were kept; what was done stays as it was.
func (s *server) forget(c *call, _ none) (json.RawMessage, error) {
	view, err := s.Store.Forget(c.Context(), c.jobID(), s.auditLine(c, "customer_forgotten", c.jobID(), nil))
	if err != nil {
		return nil, fmt.Errorf("forget: %w", err)
	}
	s.hub.poke(c.jobID())
	return view, nil
}
