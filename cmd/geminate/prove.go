package main

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"geminate/brake/diagnose"
	"geminate/brake/job"
	"geminate/brake/system"
	"geminate/ground/proving"
	"geminate/ground/simulate"
)

// errUnsafe is a careful technician who let a vehicle go that hands had left unsafe.
var errUnsafe = fmt.Errorf("the careful technician let a vehicle go that was not safe by what hands left, or found no way on")

// proven is what stands beside a kept job file.
type proven struct {
	Seed       uint64             `json:"seed"`
	Pattern    string             `json:"pattern"`
	Technician string             `json:"technician"`
	Came       []diagnose.Suspect `json:"came_with"`
	Unsafe     []simulate.After   `json:"unsafe"`
	Why        []proving.Cause    `json:"why"`
	Slips      []proving.Cause    `json:"slips"`
	Job        json.RawMessage    `json:"job"`
}

func proveCommand() *cobra.Command {
	var o proving.Options
	var page, keep, show string
	var ways []string
	c := &cobra.Command{
		Use:   "prove",
		Short: "Let technicians that are programs work on simulated vehicles through the whole job, and count what comes of it",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if show != "" {
				return showProven(show)
			}
			if o.Jobs < 1 || o.Jobs > 1_000_000 || o.AskJobs < 0 || o.AskJobs > 100_000 {
				return badInput{fmt.Errorf("--jobs takes 1 to 1000000, --asks 0 to 100000")}
			}
			if err := finite("off", o.Off); err != nil {
				return err
			}
			if o.Pattern != "" && !slices.ContainsFunc(system.Patterns, func(p system.Pattern) bool { return p.ID == o.Pattern }) {
				return badInput{fmt.Errorf("--kind %q: see geminate pattern for the ids", o.Pattern)}
			}
			for _, id := range ways {
				i := slices.IndexFunc(proving.Technicians, func(t proving.Technician) bool { return t.ID == id })
				if i < 0 {
					return badInput{fmt.Errorf("--technician %q: careful, hurried, slipping or paper", id)}
				}
				o.Ways = append(o.Ways, proving.Technicians[i])
			}
			return prove(c.Context(), o, page, keep)
		},
	}
	c.Flags().IntVar(&o.Jobs, "jobs", 1000, "jobs of each technician")
	c.Flags().Uint64Var(&o.Seed, "seed", 1, "where it begins; the same seed gives the same vehicles and hands")
	c.Flags().StringVar(&o.Pattern, "kind", "", "one pattern instead of each in turn")
	c.Flags().StringSliceVar(&ways, "technician", nil, "careful, hurried, slipping, paper (default: all)")
	c.Flags().Float64Var(&o.Off, "off", 0.15, "how far the vehicles' likelihoods lie from the engine's")
	c.Flags().IntVar(&o.AskJobs, "asks", 0, "jobs for each single ask, to see what it is worth")
	c.Flags().StringVar(&page, "page", "", "write a page here instead of printing JSON")
	c.Flags().StringVar(&keep, "keep", "", "keep every job let go unsafe, or that could not go on, in this folder")
	c.Flags().StringVar(&show, "show", "", "step through a kept job")
	return c
}

func prove(ctx context.Context, o proving.Options, page, keep string) error {
	bar := progressbar.NewOptions(1, progressbar.OptionSetWriter(os.Stderr), progressbar.OptionSetDescription("jobs"),
		progressbar.OptionShowCount(), progressbar.OptionSetPredictTime(true), progressbar.OptionThrottle(200*time.Millisecond),
		progressbar.OptionClearOnFinish())
	o.Done = func(done, of int) {
		bar.ChangeMax(of)
		_ = bar.Set(done)
	}
	var failed error
	o.Kept = func(x *proving.Outcome) {
		if keep != "" && failed == nil {
			failed = keepProven(keep, x)
		}
	}
	if ctx == nil {
		ctx = context.Background()
	}
	r, err := proving.Prove(ctx, o)
	_ = bar.Finish()
	if err == nil {
		err = failed
	}
	if err != nil {
		return err
	}
	if page == "" {
		err = print(r)
	} else {
		err = os.WriteFile(page, []byte(provePage(r)), 0o644)
	}
	if c := r.ByWay[proving.Careful.ID]; err == nil && c != nil && c.UnsafeHands+c.DeadEnds > 0 {
		return errUnsafe
	}
	return err
}

// keepProven writes a job let go unsafe with its truth beside it.
func keepProven(dir string, x *proving.Outcome) error {
	file, err := job.WriteFile(x.Book.Job, x.Book.Events)
	if err != nil {
		return err
	}
	p := proven{Seed: x.Seed, Pattern: x.Pattern, Technician: x.Technician, Came: x.Truth, Unsafe: x.Unsafe, Slips: x.Causes, Job: file}
	for _, a := range x.Unsafe {
		p.Why = append(p.Why, x.Why(a))
	}
	data, err := json.MarshalIndent(p, "", "  ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, fmt.Sprintf("%s-%d.json", x.Technician, x.Seed)), data, 0o644)
}

// showProven steps through a kept job: what it came with, every event, what was left and why.
func showProven(path string) error {
	data, err := os.ReadFile(path)
	if err != nil {
		return badInput{err}
	}
	var p proven
	if err := json.Unmarshal(data, &p); err != nil {
		return badInput{fmt.Errorf("%s: %w: it takes a file that geminate prove --keep wrote", path, err)}
	}
	f, err := job.ReadFile(p.Job, time.Now())
	if err != nil {
		return badInput{err}
	}
	fmt.Printf("%s, seed %d, by the %s technician\ncame with: %v\n", p.Pattern, p.Seed, p.Technician, p.Came)
	for _, e := range f.Events {
		body, err := json.Marshal(e.Body)
		if err != nil {
			return err
		}
		fmt.Printf("%5d  %s  %-16s %.160s\n", e.Seq, e.At.Format("15:04:05"), e.Kind, body)
	}
	fmt.Printf("slips and lies on the way: %v\nunsafe: %v\nwhy: %v\n", p.Slips, p.Unsafe, p.Why)
	return nil
}
