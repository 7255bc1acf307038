package instrument

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"
)

// SenML, RFC 8428 (sensor measurement lists), JSON: what instruments speak. A pack is a list of records; base values of
// one hold for those after it. Only what measures need is kept: name, unit, value, time.

// Record is one resolved measurement.
type Record struct {
	Name  string
	Unit  string
	Value float64
	// At is when it was measured; the zero time where the pack says none. Relative says that it was told as so long
	// before now.
	At       time.Time
	Relative bool
	// Figure says that it carries one; Text and Bool are of records that do not: codes, a step's end, a switch.
	Figure bool
	Text   string
	Bool   *bool
}

// isBattery says whether it tells of the instrument itself: what is left of its battery, in SenML's unit for that.
func (r *Record) isBattery() bool { return r.Unit == "%EL" }

// senml is one record as it stands in a pack.
type senml struct {
	BaseName  *string  `json:"bn,omitempty"`
	BaseTime  *float64 `json:"bt,omitempty"`
	BaseUnit  *string  `json:"bu,omitempty"`
	BaseValue *float64 `json:"bv,omitempty"`
	BaseVer   *float64 `json:"bver,omitempty"`
	Name      string   `json:"n,omitempty"`
	Unit      string   `json:"u,omitempty"`
	Value     *float64 `json:"v,omitempty"`
	Text      *string  `json:"vs,omitempty"`
	Bool      *bool    `json:"vb,omitempty"`
	Data      *string  `json:"vd,omitempty"`
	Sum       *float64 `json:"s,omitempty"`
	Time      float64  `json:"t,omitempty"`
	Update    *float64 `json:"ut,omitempty"`
}

const (
	// relativeBelow: a time under 2^28 is relative to now (RFC 8428, section 4.5.3).
	relativeBelow = 1 << 28
	versionMost   = 10 // of SenML, as published
	recordsMost   = 2000
)

// Errors of a pack.
var (
	ErrPack = errors.New("this is no SenML pack: a JSON list of records, RFC 8428")
	ErrMany = fmt.Errorf("a pack has up to %d records", recordsMost)
)

// ReadPack resolves a pack that an instrument tells: base values laid over, times absolute by now.
func ReadPack(data []byte, now time.Time) ([]Record, error) { return readPack(data, now, recordsMost) }

// longMost records are what a file may hold: an hour at a hundred a second.
const longMost = 360_000

// ReadLong resolves a pack out of a file.
func ReadLong(data []byte, now time.Time) ([]Record, error) { return readPack(data, now, longMost) }

func readPack(data []byte, now time.Time, most int) ([]Record, error) {
	var list []map[string]json.RawMessage
	if err := json.Unmarshal(data, &list); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrPack, err)
	}
	if len(list) > most {
		return nil, ErrMany
	}
	var base senml
	var out []Record
	for i, fields := range list {
		for name := range fields {
			if strings.HasSuffix(name, "_") { // what must be understood and is not (section 4.4)
				return nil, fmt.Errorf("record %d: %q must be understood, and is not", i, name)
			}
		}
		raw, err := json.Marshal(fields)
		if err != nil {
			return nil, err
		}
		var r senml
		if err := json.Unmarshal(raw, &r); err != nil {
			return nil, fmt.Errorf("%w: record %d: %w", ErrPack, i, err)
		}
		base.take(&r)
		if base.BaseVer != nil && *base.BaseVer > versionMost {
			return nil, fmt.Errorf("record %d: version %v of the format is not known", i, *base.BaseVer)
		}
		x := Record{Name: str(base.BaseName) + r.Name, Unit: r.Unit, Bool: r.Bool, Text: str(r.Text)}
		if x.Unit == "" {
			x.Unit = str(base.BaseUnit)
		}
		switch {
		case r.Value != nil:
			x.Value, x.Figure = *r.Value+num(base.BaseValue), true
		case r.Text == nil && r.Bool == nil && r.Data == nil && r.Sum == nil && base.BaseValue == nil: // only base values
			continue
		case r.Text == nil && r.Bool == nil && r.Data == nil && r.Sum == nil:
			continue
		}
		if x.Name == "" {
			return nil, fmt.Errorf("record %d has no name", i)
		}
		if math.IsNaN(x.Value) || math.IsInf(x.Value, 0) {
			return nil, fmt.Errorf("record %d: %v is no value", i, x.Value)
		}
		t := num(base.BaseTime) + r.Time
		if x.Relative = t < relativeBelow; x.Relative {
			x.At = now.Add(time.Duration(t * float64(time.Second)))
		} else {
			sec, frac := math.Modf(t)
			x.At = time.Unix(int64(sec), int64(frac*1e9)).UTC()
		}
		out = append(out, x)
	}
	return out, nil
}

func (b *senml) take(r *senml) {
	if r.BaseName != nil {
		b.BaseName = r.BaseName
	}
	if r.BaseTime != nil {
		b.BaseTime = r.BaseTime
	}
	if r.BaseUnit != nil {
		b.BaseUnit = r.BaseUnit
	}
	if r.BaseValue != nil {
		b.BaseValue = r.BaseValue
	}
	if r.BaseVer != nil {
		b.BaseVer = r.BaseVer
	}
}

func str(p *string) string {
	if p == nil {
		return ""
	}
	return *p
}

func num(p *float64) float64 {
	if p == nil {
		return 0
	}
	return *p
}

// WritePack writes measurements of one name and unit as a pack.
func WritePack(name, unit string, at []time.Time, values []float64) ([]byte, error) {
	list := make([]senml, len(values))
	for i, v := range values {
		list[i] = senml{Value: &v}
		if i == 0 {
			t := float64(at[0].UnixNano()) / 1e9
			list[0].BaseName, list[0].BaseUnit, list[0].BaseTime = &name, &unit, &t
			continue
		}
		list[i].Time = math.Round(1e6*at[i].Sub(at[0]).Seconds()) / 1e6
	}
	return json.Marshal(list)
}
