package table

import (
	"context"
	"math"
)

// Match finds for every row of some columns the row of others that holds the same in all of them:
// how a link finds its records. A row that holds a blank, or what no other holds, gets -1. Texts
// are the same if they are written the same; numbers must have one scale (see Rescaled).
//
// Where two rows of into hold the same, nothing is matched, and shared is one of them; otherwise it
// is -1. There must be as many columns here as there, pairwise of a kind.
func Match(ctx context.Context, from, into []Column) (rows []int32, shared int32, err error) {
	return match(ctx, from, into, numbered)
}

// MatchFew is Match for few rows, and columns there that are known to tell all records apart: that is not
// looked at again.
func MatchFew(ctx context.Context, from, into []Column) ([]int32, error) {
	rows, _, err := match(ctx, from, into, numberedFew)
	return rows, err
}

func match(
	ctx context.Context, from, into []Column, numbered func(from, into Column) (here, there []int32),
) (rows []int32, shared int32, err error) {
	var here, there []int32
	for i := range from {
		h, t := numbered(from[i], into[i])
		if ctx.Err() != nil {
			return nil, -1, ctx.Err()
		}
		if i == 0 {
			here, there = h, t
			continue
		}
		here, there = paired(here, there, h, t)
	}
	most := int32(-1)
	for _, n := range there {
		most = max(most, n)
	}
	row := make([]int32, most+1)
	for i := range row {
		row[i] = -1
	}
	for i, n := range there {
		switch {
		case n < 0:
		case row[n] >= 0:
			return nil, int32(i), nil
		default:
			row[n] = int32(i)
		}
	}
	rows = make([]int32, len(here))
	for i, n := range here {
		if rows[i] = -1; n >= 0 {
			rows[i] = row[n]
		}
	}
	return rows, -1, ctx.Err()
}

// numbered numbers the values of two columns alike; what is blank, or only here, is -1.
func numbered(from, into Column) (here, there []int32) {
	here, there = make([]int32, from.Len()), make([]int32, into.Len())
	switch into := into.(type) {
	case *Numbers:
		number := make(map[int64]int32, into.Len())
		for i, v := range into.Values {
			if there[i] = -1; v == Blank {
				continue
			}
			n, known := number[v]
			if !known {
				n = int32(len(number))
				number[v] = n
			}
			there[i] = n
		}
		c, ok := from.(*Numbers)
		for i := range here {
			if here[i] = -1; !ok || c.Values[i] == Blank {
				continue
			}
			if n, known := number[c.Values[i]]; known {
				here[i] = n
			}
		}
	case *Texts:
		number := make(map[string]int32, into.Dict.Len())
		for i, code := range into.Codes {
			if there[i] = int32(code) - 1; code > 0 {
				number[into.Dict.Value(code)] = there[i]
			}
		}
		c, ok := from.(*Texts)
		if !ok {
			return fill(here, -1), there
		}
		// Each text is looked up once.
		codes := fill(make([]int32, c.Dict.Len()), math.MinInt32)
		for i, code := range c.Codes {
			if codes[code] == math.MinInt32 {
				codes[code] = -1
				if n, known := number[c.Dict.Value(code)]; known && code > 0 {
					codes[code] = n
				}
			}
			here[i] = codes[code]
		}
	default:
		return fill(here, -1), fill(there, -1)
	}
	return here, there
}

// numberedFew is numbered for few values here: those there are looked up among them.
func numberedFew(from, into Column) (here, there []int32) {
	here, there = fill(make([]int32, from.Len()), -1), fill(make([]int32, into.Len()), -1)
	switch into := into.(type) {
	case *Numbers: // the many are looked up among the few
		if c, ok := from.(*Numbers); ok {
			there, here = numbered(into, c)
		}
	case *Texts:
		c, ok := from.(*Texts)
		if !ok {
			return here, there
		}
		texts := make([]string, 0, c.Dict.Len())
		for code := 1; code < c.Dict.Len(); code++ {
			texts = append(texts, c.Dict.Value(uint32(code)))
		}
		number := fill(make([]int32, into.Dict.Len()), -1)
		for i, code := range into.Dict.codesOf(texts) {
			if code > 0 {
				number[code] = int32(i)
			}
		}
		for i, code := range c.Codes {
			here[i] = int32(code) - 1
		}
		for i, code := range into.Codes {
			there[i] = number[code]
		}
	}
	return here, there
}

func fill(list []int32, v int32) []int32 {
	for i := range list {
		list[i] = v
	}
	return list
}

// paired numbers pairs of numbers.
func paired(here, there, h, t []int32) (pairsHere, pairsThere []int32) {
	number := make(map[[2]int32]int32, len(there))
	for i := range there {
		if there[i] < 0 || t[i] < 0 {
			there[i] = -1
			continue
		}
		pair := [2]int32{there[i], t[i]}
		n, known := number[pair]
		if !known {
			n = int32(len(number))
			number[pair] = n
		}
		there[i] = n
	}
	for i := range here {
		n, known := number[[2]int32{here[i], h[i]}]
		if !known {
			n = -1
		}
		here[i] = n
	}
	return here, there
}

// Rescaled brings numbers from one count of decimals to another, so that they can be
// compared; what has more decimals than that equals none.
func Rescaled(col Column, from, to int) Column {
	c, ok := col.(*Numbers)
	if !ok || from == to {
		return col
	}
	out := make([]int64, len(c.Values))
	for i, v := range c.Values {
		up, down := Pow10(max(0, to-from)), Pow10(max(0, from-to))
		if out[i] = Blank; v != Blank && v%down == 0 && v <= math.MaxInt64/up &&
			v >= -math.MaxInt64/up {
			out[i] = v / down * up
		}
	}
	return NewNumbers(out)
}
