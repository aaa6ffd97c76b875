// Raingauge prints how much rain fell.
package main

import (
	"fmt"

	"mossgrove.example/raingauge/gauge"
	"mossgrove.example/raingauge/report"
)

func main() {
	gauge := gauge.New("rose garden")
	gauge.Empty(12)
	fmt.Println(report.Day(gauge))
}
