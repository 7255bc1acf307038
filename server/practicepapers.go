package server

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"geminate/ground/practice"
	"geminate/sheet"
)

// What practice leaves on paper: who worked what as a table, and a certificate of one exercise.

func (s *server) practiceTable(c *call, _ none) (file, error) {
	rows, err := s.practiceRows(c.Context(), "")
	if err != nil {
		return file{}, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"who", "exercise", "pattern", "set", "started_at", "ended_at", "marks", "right", "minutes", "engine_minutes"})
	for _, r := range rows {
		ended, total := "", ""
		if r.EndedAt != nil {
			ended = r.EndedAt.UTC().Format(time.RFC3339)
		}
		if r.Total != nil {
			total = strconv.FormatFloat(*r.Total, 'f', -1, 64)
		}
		_ = w.Write(
			[]string{
				calm(r.Who),
				string(r.Exercise),
				r.Pattern,
				r.Set,
				r.StartedAt.UTC().Format(time.RFC3339),
				ended,
				total,
				strconv.FormatBool(r.Right),
				fmt.Sprint(r.Minutes),
				fmt.Sprint(r.Own),
			},
		)
	}
	w.Flush()
	return file{"practice.csv", b.Bytes()}, w.Error()
}

func (s *server) certificate(c *call, _ none) (file, error) {
	p, err := s.Store.PracticeOf(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	if err := own(c, p); err != nil {
		return file{}, err
	}
	if p.EndedAt == nil {
		return file{}, fiber.NewError(http.StatusConflict, "problem.practice_open")
	}
	var r practice.Result
	if err := json.Unmarshal([]byte(p.Result), &r); err != nil {
		return file{}, err
	}
	if r.Total < practice.CertificateLeast {
		return file{}, fiber.NewError(http.StatusConflict, "problem.certificate_least")
	}
	set, err := s.Store.Settings(c.Context())
	if err != nil {
		return file{}, err
	}
	data, err := sheet.Certificate(&r, p.UserName, *p.EndedAt, set)
	return file{"practice.pdf", data}, err
}
