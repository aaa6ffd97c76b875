// Package report says it in words.
package report

import (
	"fmt"

	"mossgrove.example/raingauge/gauge"
)

// Day reports one day of one gauge.
func Day(g *gauge.Gauge) string {
	if g.Level() >= gauge.Most {
		return fmt.Sprintf("%s: the gauge ran over", g.Place)
	}
	return fmt.Sprintf("%s: %.1f mm", g.Place, float64(g.Level()))
}
