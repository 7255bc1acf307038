package main

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"geminate/brake/job"
	"geminate/brake/strict"
	"geminate/brake/trace"
	"geminate/instrument"
)

// wants are the names of what a trace can be read for.
var wants = map[string]string{
	"hold":    trace.FindSink,
	"curve":   trace.FindCurve,
	"pump":    trace.FindPump,
	"reserve": trace.FindReserve,
	"balance": trace.FindGauge,
	"left":    trace.FindReleased,
	"release": trace.FindReleased,
	"vacuum":  trace.FindFall,
}

func traceCommand() *cobra.Command {
	var want, file string
	c := &cobra.Command{
		Use:   "trace [PACK]",
		Short: "Read a SenML pack of what instruments drew: the figure, its interval and what it was read under, or why it is none (exit 2)",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			finding, ok := wants[want]
			if !ok {
				return badInput{fmt.Errorf("--want: one of hold, pump, reserve, balance, left, release, vacuum, curve; not %q", want)}
			}
			series, err := readSeries(args)
			if err != nil {
				return err
			}
			came, err := readTrace(finding, file, series)
			var refused *strict.Refused
			switch {
			case errors.As(err, &refused):
				return refused
			case err != nil:
				return badInput{err}
			}
			return print(came)
		},
	}
	c.Flags().StringVar(&want, "want", "hold", "hold, pump, reserve, balance, left, release, vacuum or curve")
	c.Flags().StringVar(&file, "system", "", "the vehicle's system file: its pedal's curve and floor")
	return c
}

// readTrace reads a trace as the server does, of the vehicle in a file where one is named.
func readTrace(finding, file string, series map[trace.Kind]trace.Series) (trace.Came, error) {
	if file == "" {
		return trace.Read(finding, series, trace.Pedal{})
	}
	s, err := readSystem([]string{file})
	if err != nil {
		return trace.Came{}, err
	}
	j := &job.Job{}
	j.Intake.System = s
	return j.ReadTrace(finding, series)
}

// readSeries sorts a pack's readings by the kind that their name ends in.
func readSeries(args []string) (map[trace.Kind]trace.Series, error) {
	in, err := input(args, 0)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	raw, err := io.ReadAll(io.LimitReader(in, 64<<20))
	if err != nil {
		return nil, err
	}
	records, err := instrument.ReadLong(raw, time.Now())
	if err != nil {
		return nil, badInput{err}
	}
	out := map[trace.Kind]trace.Series{}
	var first time.Time
	for _, r := range records {
		if first.IsZero() || r.At.Before(first) {
			first = r.At
		}
	}
	for i, r := range records {
		k := slices.IndexFunc(trace.Kinds, func(m trace.Measure) bool { return strings.HasSuffix(r.Name, string(m.Kind)) })
		if k < 0 || !r.Figure {
			return nil, badInput{fmt.Errorf("record %d: %q ends in none of %s, or carries no figure", i, r.Name, trace.KindNames())}
		}
		v, err := trace.Kinds[k].Read(r.Unit, r.Value)
		if err != nil {
			return nil, badInput{fmt.Errorf("record %d: %w", i, err)}
		}
		kind := trace.Kinds[k].Kind
		out[kind] = append(out[kind], trace.Sample{S: r.At.Sub(first).Seconds(), V: v})
	}
	return out, nil
}
