package files

import "strings"

// guesser keeps texts of each column, evenly from all rows.
type guesser struct {
	rows, every int
	texts       [][]string
	kept, most  int // rows
	blanks      []bool
}

func newGuesser(columns int) *guesser {
	return &guesser{
		every: 1, texts: make([][]string, columns), blanks: make([]bool, columns),
		most: min(guessedRows, guessedTexts/max(columns, 1)),
	}
}

func (g *guesser) take(row Row) {
	g.rows++
	if row.Wrong != nil || g.rows%g.every != 0 {
		return
	}
	for i, c := range row.Cells {
		if row.Broken[i] != "" {
			continue
		}
		if c = strings.TrimSpace(c); c == "" {
			g.blanks[i] = true
		} else {
			g.texts[i] = append(g.texts[i], strings.Clone(c[:min(len(c), shownText)]))
		}
	}
	if g.kept++; g.kept >= g.most {
		g.kept, g.every = g.kept/2, 2*g.every
		for i, texts := range g.texts {
			for n := range len(texts) / 2 {
				texts[n] = texts[2*n+1]
			}
			g.texts[i] = texts[:len(texts)/2]
		}
	}
}

// apart says whether a column's values tell rows apart, as far as they are kept.
func (g *guesser) apart(i int) bool {
	seen := make(map[string]bool, len(g.texts[i]))
	for _, s := range g.texts[i] {
		if seen[s] {
			return false
		}
		seen[s] = true
	}
	return !g.blanks[i] && len(seen) > 1
}
