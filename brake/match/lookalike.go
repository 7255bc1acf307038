package match

// LookAlike is a pair of candidates that differ in one small point, which decides.
type LookAlike struct {
	Fits    string `json:"fits"`     // unit id
	DoesNot string `json:"does_not"` // unit id
	Point   string `json:"point"`    // the one that tells them apart
	Code    string `json:"code"`
}

// LookAlikes finds the traps: two units alike on every point but one, of which one fits and the other
// does not. They lie in boxes of the same colour, a letter apart.
func LookAlikes(results []Result) []LookAlike {
	out := []LookAlike{}
	for i := range results {
		if results[i].Verdict == DoesNotFit {
			continue
		}
		for j := range results {
			if results[j].Verdict != DoesNotFit || results[i].Unit.KindOf() != results[j].Unit.KindOf() {
				continue
			}
			if p := oneApart(&results[i], &results[j]); p != nil {
				out = append(out, LookAlike{results[i].Unit.ID, results[j].Unit.ID, p.ID, p.Code})
			}
		}
	}
	return out
}

// leastMeasured is how many points must be known before two units are called alike. Assumption: bore, ports, studs and
// one more.
const leastMeasured = 5

// oneApart returns the single point on which two results differ, nil where there is none or more.
func oneApart(a, b *Result) *Point {
	if len(a.Points) != len(b.Points) {
		return nil
	}
	var found *Point
	measured := 0
	for i := range b.Points {
		if b.Points[i].Verdict != Unknown {
			measured++
		}
		if a.Points[i].ID != b.Points[i].ID {
			return nil
		}
		if a.Points[i].Verdict == b.Points[i].Verdict && a.Points[i].Code == b.Points[i].Code {
			continue
		}
		if found != nil || b.Points[i].Verdict != DoesNotFit {
			return nil
		}
		found = &b.Points[i]
	}
	if measured < leastMeasured {
		return nil // alike in what nobody has measured is not alike
	}
	return found
}
