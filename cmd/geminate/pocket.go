package main

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg"
	_ "image/png"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"geminate/brake/motion"
	"geminate/brake/photo"
	"geminate/brake/strict"
	"geminate/brake/trace"
	"geminate/instrument"
)

// photoFile is what the command reads: an ask, and where the picture itself lies if edges shall be found in it.
type photoFile struct {
	Format string `json:"format"`
	// Image is the picture's file, beside this one; "" measures by the taps alone.
	Image string `json:"image,omitempty"`
	photo.Ask
}

const photoFormat = "geminate.photo/1"

func photoCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "photo [FILE]",
		Short: "Measure on a photo: figures with the interval that holds them in 95 of 100, or why there are none (exit 2)",
		Long: "FILE is geminate.photo/1: the picture's size, the field of view where it is known, what lies in the plane with its four corners, " +
			"the points of what is wanted, and the picture's own file where edges shall be found near them. docs/formats.md.",
		Args: cobra.MaximumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			raw, err := all(args)
			if err != nil {
				return err
			}
			var f photoFile
			if err := strict.Decode(raw, &f); err != nil {
				return err
			}
			if f.Format != photoFormat {
				return badInput{fmt.Errorf("$.format: %s, not %q", photoFormat, f.Format)}
			}
			if f.Image != "" {
				beside := "."
				if len(args) > 0 {
					beside = filepath.Dir(args[0])
				}
				luma, err := readLuma(filepath.Join(beside, filepath.Base(f.Image)))
				if err != nil {
					return badInput{err}
				}
				if f.Seen, err = photo.Find(luma, f.Ask); err != nil {
					return err
				}
			}
			m, err := photo.Measure(f.Ask)
			if err != nil {
				return err
			}
			return print(m)
		},
	}
}

// all reads a command's input whole.
func all(args []string) ([]byte, error) {
	in, err := input(args, 0)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	return io.ReadAll(io.LimitReader(in, 64<<20))
}

// readLuma reads a picture's brightness.
func readLuma(path string) (*photo.Luma, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	// The head first: a few bytes can claim a picture that fills the machine.
	head, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	const mostPX = 60 << 20
	if head.Width <= 0 || head.Height <= 0 || head.Width > mostPX/head.Height {
		return nil, fmt.Errorf("%s: %d × %d px are too many", path, head.Width, head.Height)
	}
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	b := img.Bounds()
	l := &photo.Luma{WidePX: b.Dx(), HighPX: b.Dy(), Y: make([]byte, b.Dx()*b.Dy())}
	for y := range l.HighPX {
		for x := range l.WidePX {
			r, g, bl, _ := img.At(b.Min.X+x, b.Min.Y+y).RGBA()
			l.Y[y*l.WidePX+x] = byte((299*r + 587*g + 114*bl) / 1000 >> 8) // as ITU-R BT.601 weighs the three
		}
	}
	return l, nil
}

// travelled is a pedal's travel with the sink of its hold, where there was one.
type travelled struct {
	motion.Travelled
	Sink *trace.Slope `json:"sink_mm_per_s,omitempty"`
	// Sinks says whether that is a sink: null where it was not held long enough to tell.
	Sinks *bool `json:"sinks,omitempty"`
}

func motionCommand() *cobra.Command {
	var want, zero string
	var radius, axis float64
	c := &cobra.Command{
		Use:   "motion [PACK]",
		Short: "Read a SenML pack of a phone's acceleration with gravity: tilt, pedal travel or a stop, with its interval, or why there is none (exit 2)",
		Long: "PACK holds acceleration with gravity in it, unit m/s2, in the phone's own axes: names that end in x, y and z. For a stop it begins and ends at rest; " +
			"for travel the pedal rests for the first two seconds.",
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			samples, err := readMotion(args)
			if err != nil {
				return err
			}
			var answer any
			switch want {
			case "tilt":
				in := motion.TiltIn{Samples: samples}
				if zero != "" {
					if in.Zero, err = readMotion([]string{zero}); err != nil {
						return err
					}
				}
				answer, err = motion.TiltOf(in)
			case "travel":
				in := motion.TravelIn{Samples: samples, RadiusMM: radius}
				if cmd.Flags().Changed("axis-deg") {
					in.AxisDeg = &axis
				}
				answer, err = travelOf(in)
			case "stop":
				answer, err = motion.StopOf(motion.StopIn{Samples: samples})
			default:
				return badInput{fmt.Errorf("--want: one of tilt, travel, stop; not %q", want)}
			}
			if err != nil {
				return err
			}
			return print(answer)
		},
	}
	c.Flags().StringVar(&want, "want", "tilt", "tilt, travel or stop")
	c.Flags().StringVar(&zero, "zero", "", "a pack felt on what counts as level, for tilt")
	c.Flags().Float64Var(&radius, "radius-mm", 0, "from the pedal's pivot to the middle of its pad, for travel")
	c.Flags().Float64Var(&axis, "axis-deg", 90, "how far the axis the arm turns about is from upright, for travel")
	return c
}

func travelOf(in motion.TravelIn) (travelled, error) {
	t, err := motion.TravelOf(in)
	if err != nil {
		return travelled{}, err
	}
	out := travelled{Travelled: t}
	came, err := trace.Read(trace.FindSink, map[trace.Kind]trace.Series{trace.Travel: t.Travel}, trace.Pedal{})
	if err == nil && came.Slope != nil {
		sinks := motion.Sinks(*came.Slope)
		out.Sink, out.Sinks = came.Slope, &sinks
	}
	return out, nil
}

// readMotion lays a pack's three axes by their moments.
func readMotion(args []string) ([]motion.Sample, error) {
	raw, err := all(args)
	if err != nil {
		return nil, err
	}
	records, err := instrument.ReadLong(raw, time.Now())
	if err != nil {
		return nil, badInput{err}
	}
	at := map[time.Time]int{}
	var out []motion.Sample
	var had []int
	var first time.Time
	for i, r := range records {
		axis := strings.IndexByte("xyz", last(strings.ToLower(r.Name)))
		switch {
		case axis < 0 || !r.Figure:
			return nil, badInput{fmt.Errorf("record %d: %q ends in none of x, y, z, or carries no figure", i, r.Name)}
		case r.Unit != "m/s2":
			return nil, badInput{fmt.Errorf("record %d: unit %q: m/s2", i, r.Unit)}
		}
		if first.IsZero() {
			first = r.At
		}
		k, seen := at[r.At]
		if !seen {
			k = len(out)
			at[r.At] = k
			out, had = append(out, motion.Sample{S: r.At.Sub(first).Seconds()}), append(had, 0)
		}
		*[]*float64{&out[k].X, &out[k].Y, &out[k].Z}[axis] = r.Value
		had[k] |= 1 << axis
	}
	for i, h := range had {
		if h != 7 {
			return nil, badInput{errors.New("at " + fmt.Sprintf("%.3f", out[i].S) + " s one of x, y and z is missing")}
		}
	}
	return out, nil
}

func last(s string) byte {
	if s == "" {
		return 0
	}
	return s[len(s)-1]
}
