package darkroom

import "math"

// Sheet is a rectangle with rounded corners, its first corner at x, y, turned by so many degrees, of one lightness.
func Sheet(x, y, turnDeg, longMM, shortMM, radiusMM, heightMM, light float64) Thing {
	s, c := math.Sincos(turnDeg * math.Pi / 180)
	return Thing{
		heightMM,
		func(px, py float64) float64 {
			u, v := (px-x)*c+(py-y)*s, -(px-x)*s+(py-y)*c
			if u < 0 || v < 0 || u > longMM || v > shortMM {
				return -1
			}
			cu, cv := math.Max(radiusMM-u, math.Max(0, u-longMM+radiusMM)), math.Max(radiusMM-v, math.Max(0, v-shortMM+radiusMM))
			if cu > 0 && cv > 0 && cu*cu+cv*cv > radiusMM*radiusMM {
				return -1
			}
			return light
		},
	}
}

// SheetCorners are where the corners of such a sheet would be if they were not rounded.
func SheetCorners(x, y, turnDeg, longMM, shortMM float64) [4][2]float64 {
	s, c := math.Sincos(turnDeg * math.Pi / 180)
	at := func(u, v float64) [2]float64 { return [2]float64{x + u*c - v*s, y + u*s + v*c} }
	return [4][2]float64{at(0, 0), at(longMM, 0), at(longMM, shortMM), at(0, shortMM)}
}

// Flange is a cylinder's: a plate of an oval with two holes spacingMM apart and the bore's neck between them, as one
// sees it in the direction of its bolts, its middle at x, y and its bolts along a direction.
func Flange(x, y, turnDeg, spacingMM, holeMM, neckMM float64) Thing {
	s, c := math.Sincos(turnDeg * math.Pi / 180)
	return Thing{
		0,
		func(px, py float64) float64 {
			u, v := (px-x)*c+(py-y)*s, -(px-x)*s+(py-y)*c
			for _, side := range []float64{-1, 1} {
				if math.Hypot(u-side*spacingMM/2, v) < holeMM/2 {
					return 30
				}
			}
			switch r := math.Hypot(u, v); {
			case r < neckMM/2:
				return 60
			case r < neckMM/2+2:
				return 200
			}
			a, b := spacingMM/2+holeMM, neckMM/2+9
			if u*u/a/a+v*v/b/b < 1 {
				return 168
			}
			return -1
		},
	}
}

// HoleAt is where such a flange's holes are: the one (−1) and the other (1).
func HoleAt(x, y, turnDeg, spacingMM, side float64) (hx, hy float64) {
	s, c := math.Sincos(turnDeg * math.Pi / 180)
	return x + side*spacingMM/2*c, y + side*spacingMM/2*s
}
