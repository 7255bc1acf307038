package server

import (
	"strings"
	"time"

	"geminate/brake/job"
	"geminate/sheet"
)

// paperFor is how long a customer's pass holds: as long as a comeback is asked about.
const paperFor = 90 * 24 * time.Hour

// customer is what the owner takes home.
func (s *server) customer(c *call, _ none) (file, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return file{}, err
	}
	data, err := s.customerOf(c, j, c.user.Units)
	return file{fileName(j, "-customer.pdf"), data}, err
}

// paperPass gives a pass to one job's customer paper: whoever has it can read that, and nothing else, without an
// account.
func (s *server) paperPass(c *call, _ none) (Pass, error) {
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return Pass{}, err
	}
	token := s.newPass()
	if err := s.papers.SetWithContext(c.Context(), token, []byte(j.ID+" "+c.user.Units), paperFor); err != nil {
		return Pass{}, err
	}
	s.audit(c, "paper_pass", j.ID, nil)
	return s.passOf(c, "/api/papers/"+token, paperFor)
}

// paper answers the customer's paper by its pass, as it stands now.
func (s *server) paper(c *call, _ none) (file, error) {
	token := strings.Clone(c.Params("pass"))
	if len(token) > 64 {
		return file{}, errPass
	}
	kept, err := s.papers.GetWithContext(c.Context(), token)
	if err != nil {
		return file{}, err
	}
	id, units, ok := strings.Cut(string(kept), " ")
	if !ok {
		return file{}, errPass
	}
	j, err := s.Store.Job(c.Context(), id)
	if err != nil {
		return file{}, errPass
	}
	data, err := s.customerOf(c, j, units)
	return file{"brakes.pdf", data}, err
}

// customerOf is a job's customer paper with its pictures.
func (s *server) customerOf(c *call, j *job.Job, units string) ([]byte, error) {
	photos, err := s.Store.Photos(c.Context(), j)
	if err != nil {
		return nil, err
	}
	return sheet.Customer(c.Context(), j, units, now(), photos...)
}
