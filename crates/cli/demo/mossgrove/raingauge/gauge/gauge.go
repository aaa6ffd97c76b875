// Package gauge reads one rain gauge.
package gauge

// Gauge is a gauge with a place.
type Gauge struct {
	Place string
	level Depth
}

// New returns an empty gauge.
func New(place string) *Gauge {
	return &Gauge{Place: place}
}

// Empty adds what was found in the gauge.
func (g *Gauge) Empty(found Depth) {
	g.level += clamp(found)
}

// Level is what fell since the gauge was made.
func (g *Gauge) Level() Depth {
	return g.level
}
