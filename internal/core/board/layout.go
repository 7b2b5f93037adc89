package board

// Place is where a part stands in the grid of its page, in columns and rows from 0.
type Place struct {
	// Part is its place among the board's parts.
	Part        int
	Column, Row int
	Wide, High  int
}

// Page is a run of parts that are seen together.
type Page struct {
	// Rows is how many rows of the grid it has.
	Rows   int
	Places []Place
}

// Pages lays the parts out as a screen does: in reading order, each at the first free place behind the one
// before it, row by row; a part that begins a page begins another grid. This is the sparse packing of CSS Grid
// Layout, section 8.5, with every part spanning columns and rows.
func (d *Board) Pages() []Page {
	var out []Page
	var taken map[[2]int]bool
	row, column := 0, 0
	for i, p := range d.Parts {
		if i == 0 || p.Page {
			out = append(out, Page{})
			taken, row, column = map[[2]int]bool{}, 0, 0
		}
		page := &out[len(out)-1]
		at := Place{Part: i}
		at.Wide, at.High = p.Size()
		row, column = fit(taken, row, column, at.Wide, at.High)
		at.Row, at.Column = row, column
		for r := range at.High {
			for c := range at.Wide {
				taken[[2]int{row + r, column + c}] = true
			}
		}
		page.Places = append(page.Places, at)
		page.Rows = max(page.Rows, row+at.High)
	}
	return out
}

// fit is the first place behind a cursor where so many columns and rows are free.
func fit(taken map[[2]int]bool, row, column, wide, high int) (int, int) {
	free := func(row, column int) bool {
		for r := range high {
			for c := range wide {
				if taken[[2]int{row + r, column + c}] {
					return false
				}
			}
		}
		return true
	}
	for ; ; row, column = row+1, 0 {
		for ; column+wide <= Columns; column++ {
			if free(row, column) {
				return row, column
			}
		}
	}
}
