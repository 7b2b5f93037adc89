// Which cells of a line are averages of several prices.

package windows

import (
	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
)

// mixesOf lists the averages of a line that are mixes.
func (w *windower) mixesOf(line result.Line, i int32) (out []result.Mix) {
	for _, c := range w.heads {
		f := w.Figures[c]
		if line.Cells[c].Kind == cell.Blank {
			continue
		}
		if m := f.Mix(c, i); m != nil {
			out = append(out, *m)
		}
	}
	return out
}
