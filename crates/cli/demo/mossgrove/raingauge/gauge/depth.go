package gauge

// Depth of rain in millimetres.
type Depth float64

// Most is what a gauge holds.
const Most Depth = 150

func clamp(depth Depth) Depth {
	if depth > Most {
		return Most
	}
	return depth
}
