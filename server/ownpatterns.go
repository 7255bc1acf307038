package server

import (
	"reflect"
	"slices"
	"strings"

	"github.com/google/uuid"

	"geminate/brake/job"
	"geminate/brake/system"
)

// OwnPatternIn names a shop's own pattern.
type OwnPatternIn struct {
	Name string `json:"name"`
}

// OwnPatternsView is the shop's own patterns as they stand.
type OwnPatternsView struct {
	OwnPatterns []job.OwnPattern `json:"own_patterns"`
}

// keepPattern keeps a job's brakes as a pattern of the shop's own.
func (s *server) keepPattern(c *call, in OwnPatternIn) (OwnPatternsView, error) {
	// It is the shop's for good: what a learner may on a practice vehicle of theirs does not reach so far.
	if !c.user.Role.May(job.ChangeSystem) {
		return OwnPatternsView{}, job.ErrRole{Command: job.ChangeSystem}
	}
	j, err := s.Store.Job(c.Context(), c.jobID())
	if err != nil {
		return OwnPatternsView{}, err
	}
	p, err := j.AsPattern(uuid.NewString(), in.Name, now(), c.user.Display)
	if err != nil {
		return OwnPatternsView{}, err
	}
	all, err := s.Store.ChangeOwnPatterns(c.Context(), func(all []job.OwnPattern) ([]job.OwnPattern, error) { return job.KeepOwn(all, p) },
		s.auditLine(c, "own_pattern", j.ID, map[string]any{"name": p.Name}))
	return OwnPatternsView{all}, err
}

// dropPattern gives one up; jobs opened on it keep their figures.
func (s *server) dropPattern(c *call, _ none) (OwnPatternsView, error) {
	id := strings.Clone(c.Params("id"))
	all, err := s.Store.ChangeOwnPatterns(c.Context(),
		func(all []job.OwnPattern) ([]job.OwnPattern, error) { return job.DropOwn(all, id), nil },
		s.auditLine(c, "own_pattern_dropped", id, nil))
	return OwnPatternsView{all}, err
}

// maySet says whether this person may begin a job with such a system: the shop's own patterns may be taken by anybody
// who opens a job, any other by who may change a system.
func (s *server) maySet(c *call, sys *system.System) error {
	if sys == nil || c.user.Role.May(job.ChangeSystem) {
		return nil
	}
	own, err := s.Store.OwnPatterns(c.Context())
	if err != nil {
		return err
	}
	if slices.ContainsFunc(own, func(p job.OwnPattern) bool { return reflect.DeepEqual(p.System, sys) }) {
		return nil
	}
	return job.ErrRole{Command: job.ChangeSystem}
}
