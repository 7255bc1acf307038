package instrument

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"net"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/creack/pty"
	"github.com/eclipse/paho.golang/paho"

	"geminate/brake/trace"
)

// Stand-ins play instruments at a simulated pedal, so that everything can be tried without hardware: a foot goes down,
// holds, and comes up again, over and over. What goes wrong with instruments goes wrong with them where it is asked
// for.

// StandIn is one instrument to be played.
type StandIn struct {
	Kind       trace.Kind
	ID, Secret string
}

// Pedal is what the stand-ins are fastened to: travel, mm, under a force, N, held for so many seconds.
type Pedal func(forceN, seconds float64) (travelMM float64)

// Play says how.
type Play struct {
	MQTT   string // address of the broker; else URL is spoken to
	URL    string
	HZ     float64
	ForceN float64 // of the foot
	Noise  float64 // share of the usual noise
	Lose   float64 // share of readings that are lost on the way
	Double float64 // share that are told twice
	Wrong  bool    // the wrong unit
	Drift  float64 // of the figure, a share an hour
	Dies   time.Duration
	Serial bool // lines on a cable, not packs
	// Did counts what was told, where somebody wants to know.
	Did *Did
}

// Did is what stand-ins told: readings, those of them told twice, and those lost on the way.
type Did struct{ Told, Twice, Lost atomic.Int64 }

// The foot of the stand-ins: it waits, goes down, holds and comes up.
const (
	footIdleS, footDownS, footHoldS, footUpS = 3.0, 4.0, 60.0, 2.0
	forceNoiseN, travelNoiseMM               = 3.0, 0.15
	cyclicS                                  = footIdleS + footDownS + footHoldS + footUpS
)

// foot is the force at a moment of the play, and how long it has been held.
func foot(s, most float64) (force, held float64) {
	s = math.Mod(s, cyclicS)
	switch {
	case s < footIdleS:
		return 0, 0
	case s < footIdleS+footDownS:
		return most * (s - footIdleS) / footDownS, 0
	case s < cyclicS-footUpS:
		return most, s - footIdleS - footDownS
	}
	return most * (cyclicS - s) / footUpS, footHoldS
}

// Run plays one instrument until ctx ends.
func (i StandIn) Run(ctx context.Context, p Play, pedal Pedal, seed uint64) error {
	send, closing, err := i.way(ctx, p)
	if err != nil {
		return err
	}
	defer closing()
	return i.RunTo(ctx, p, pedal, seed, send)
}

// RunTo is Run that hands its packs to send.
func (i StandIn) RunTo(ctx context.Context, p Play, pedal Pedal, seed uint64, send func([]byte) error) error {
	m, known := trace.MeasureOf(i.Kind)
	if !known || i.Kind == trace.ScanTool {
		return fmt.Errorf("there is no stand-in for a %s", i.Kind)
	}
	rnd := rand.New(rand.NewPCG(seed, 7))
	began := time.Now()
	tick := time.NewTicker(time.Duration(float64(time.Second) / math.Max(0.5, p.HZ)))
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case now := <-tick.C:
			s := now.Sub(began).Seconds()
			if p.Dies > 0 && now.Sub(began) > p.Dies {
				return nil // a dead battery says nothing more
			}
			v := i.value(s, p, pedal, rnd) * (1 + p.Drift*s/3600)
			unit := m.SenML
			if p.Wrong {
				unit = "x-" + unit
			}
			pack, err := p.says(i.Kind, m, unit, now, v)
			if err != nil {
				return err
			}
			did := p.Did
			if did == nil {
				did = &Did{}
			}
			if rnd.Float64() < p.Lose {
				did.Lost.Add(1)
				continue
			}
			did.Told.Add(1)
			times := 1
			if rnd.Float64() < p.Double {
				times = 2
				did.Twice.Add(1)
			}
			for range times {
				if err := send(pack); err != nil && ctx.Err() == nil {
					return err
				}
			}
		}
	}
}

// says is a reading as it goes out: a pack, or a line on a cable.
func (p *Play) says(k trace.Kind, m trace.Measure, unit string, now time.Time, v float64) ([]byte, error) {
	if !p.Serial {
		return WritePack(string(k), unit, []time.Time{now.UTC()}, []float64{v / m.Factor})
	}
	ours := map[bool]string{true: lineOurs[k].unit}[lineOurs[k].many == 1]
	if ours == "" {
		ours = serialUnit[k]
	}
	if p.Wrong {
		ours = "parsec"
	}
	return fmt.Appendf(nil, "%.3f %s\r\n", v, ours), nil
}

// serialUnit is what a stand-in on a cable says where its unit is none of the table's.
var serialUnit = map[trace.Kind]string{trace.Scale: "g", trace.Water: "%", trace.Voltmeter: "V"}

// OnCable opens a pseudo-terminal and says its path; what is played is written to it as lines.
func OnCable() (path string, send func([]byte) error, closing func(), err error) {
	terminal, line, err := pty.Open()
	if err != nil {
		return "", nil, nil, fmt.Errorf("a pseudo-terminal: %w", err)
	}
	return line.Name(), func(b []byte) error {
		_, err := terminal.Write(b)
		return err
	}, func() { _ = errors.Join(line.Close(), terminal.Close()) }, nil
}

// value is the figure in our unit.
func (i StandIn) value(s float64, p Play, pedal Pedal, rnd *rand.Rand) float64 {
	force, held := foot(s, p.ForceN)
	switch i.Kind {
	case trace.Force:
		return force + p.Noise*forceNoiseN*rnd.NormFloat64()
	case trace.Travel:
		return pedal(force, held) + p.Noise*travelNoiseMM*rnd.NormFloat64()
	case trace.PressureA, trace.PressureB:
		return force/60 + 0.02*p.Noise*rnd.NormFloat64()
	case trace.Vacuum:
		return 65 + p.Noise*rnd.NormFloat64()
	case trace.Water:
		return 1.2 + 0.05*p.Noise*rnd.NormFloat64()
	case trace.Torque:
		return 25 + p.Noise*rnd.NormFloat64()
	case trace.Scale:
		return 5*s + p.Noise*rnd.NormFloat64()
	case trace.Thermometer:
		return 34 + p.Noise*rnd.NormFloat64()
	case trace.Voltmeter:
		return 12.6 + 0.02*p.Noise*rnd.NormFloat64()
	case trace.FootSwitch:
		return math.Floor(s / cyclicS)
	}
	return 0
}

// way is how packs go out.
func (i StandIn) way(ctx context.Context, p Play) (send func([]byte) error, closing func(), err error) {
	if p.MQTT == "" {
		client := &http.Client{Timeout: 5 * time.Second}
		return func(pack []byte) error {
			req, err := http.NewRequestWithContext(ctx, http.MethodPost, p.URL+"/api/readings", bytes.NewReader(pack))
			if err != nil {
				return err
			}
			req.Header.Set("Content-Type", "application/senml+json")
			req.Header.Set("Authorization", "Bearer "+i.Secret)
			res, err := client.Do(req)
			if err != nil {
				return err
			}
			_, _ = io.Copy(io.Discard, res.Body)
			if err := res.Body.Close(); err != nil {
				return err
			}
			if res.StatusCode != http.StatusOK {
				return fmt.Errorf("the readings were answered %d", res.StatusCode)
			}
			return nil
		}, func() {}, nil
	}
	conn, err := (&net.Dialer{}).DialContext(ctx, "tcp", p.MQTT)
	if err != nil {
		return nil, nil, err
	}
	c := paho.NewClient(paho.ClientConfig{Conn: conn})
	ack, err := c.Connect(
		ctx,
		&paho.Connect{
			ClientID:     i.ID,
			KeepAlive:    30,
			CleanStart:   true,
			Username:     i.ID,
			UsernameFlag: true,
			Password:     []byte(i.Secret),
			PasswordFlag: true,
		},
	)
	if err != nil || ack.ReasonCode != 0 {
		return nil, nil, errors.Join(errors.New("the broker does not let this instrument in"), err, conn.Close())
	}
	return func(pack []byte) error {
		_, err := c.Publish(ctx, &paho.Publish{Topic: "geminate/" + i.ID, QoS: 0, Payload: pack})
		return err
	}, func() { _ = c.Disconnect(&paho.Disconnect{}) }, nil
}
