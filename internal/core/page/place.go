package page

// place draws a row on the pages that stand beside each other, and moves on below it.
func (f *filling) place(r row) {
	f.begun = true
	size := f.sheet.size
	for fold := range f.at {
		page, left, right := &f.at[fold], f.sheet.margin, f.right(fold)
		switch {
		case r.record:
			page.Rules = append(page.Rules, Stroke{left, f.y + r.height, right, f.y + r.height, 0.3, true})
		case r.level == 0:
			page.Rules = append(page.Rules, Stroke{left, f.y, right, f.y, 1, false})
		case r.level == 1:
			page.Fills = append(page.Fills, Fill{left, f.y, right - left, r.height, Shade})
			page.Rules = append(page.Rules, Stroke{left, f.y + r.height, right, f.y + r.height, 0.4, true})
		default:
			page.Rules = append(page.Rules, Stroke{left, f.y + r.height, right, f.y + r.height, 0.4, true})
		}
		f.placeBars(page, fold, r)
		f.placeName(page, r)
		for at, i := range f.folds[fold] {
			f.placeCell(page, r, i, f.xs[fold][at])
		}
	}
	f.y += r.height
	if r.level == 0 {
		f.y += size * 0.2
	}
}

// base is the height of a row's line, counted from 0.
func (f *filling) base(line int) float64 {
	size := f.sheet.size
	return f.y + size*0.15 + leading(size)*float64(line) + size*1.02
}

// placeName writes the name of a group, how many records it has, or that it goes on.
func (f *filling) placeName(page *Page, r row) {
	size, x := f.sheet.size, f.sheet.margin+f.inset(r.level)
	if !f.Table.Labelled {
		return
	}
	for i, text := range r.name {
		page.Texts = append(page.Texts, Text{x, f.base(i), SerifBold, size, false, text, Group})
	}
	if len(r.name) == 0 {
		return
	}
	beside := r.count
	if r.again {
		beside = goesOn
	}
	last := len(r.name) - 1
	at := x + f.Metrics.Width(SerifBold, size, r.name[last]) + size*0.5
	page.Texts = append(page.Texts, Text{at, f.base(last), Sans, size * smallSize, true, beside, Value})
}

func (f *filling) placeCell(page *Page, r row, i int, x float64) {
	c, size, face := f.columns[i], f.sheet.size, Sans
	if !r.record {
		face = SansBold
	}
	if p := r.cells[i].picture; p != "" {
		page.Pictures = append(page.Pictures, Picture{x, f.y + size*0.15, c.width, r.height - size*0.3, p})
	}
	for n, text := range r.cells[i].lines {
		start := x
		if c.Right {
			start = x + c.width - f.Metrics.Width(face, size, text)
		}
		page.Texts = append(page.Texts, Text{start, f.base(n), face, size, false, text, Value})
	}
}

// placeBars draws the bars behind figures, from the left edge of their columns.
func (f *filling) placeBars(page *Page, fold int, r row) {
	for _, b := range r.bars {
		for at, i := range f.folds[fold] {
			c := f.columns[i]
			if c.Head != b.Cell {
				continue
			}
			ink, part := Bar, b.Part
			if part < 0 {
				ink, part = Below, -part
			}
			inset := f.sheet.size * 0.2
			page.Fills = append(
				page.Fills, Fill{f.xs[fold][at], f.y + inset, c.width * part, r.height - 2*inset, ink},
			)
		}
	}
}
