package export

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"math"
	"strconv"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
)

// jsonColumn describes a column in JSON.
type jsonColumn struct {
	Key      string       `json:"key"`
	Heading  string       `json:"heading"`
	Type     catalog.Type `json:"type"`
	Currency string       `json:"currency,omitempty"`
}

// described are the sheet's columns as files tell of them.
func (s Sheet) described() []jsonColumn {
	out := make([]jsonColumn, len(s.Columns))
	for i, c := range s.Columns {
		out[i] = jsonColumn{c.Key, c.Heading, c.Field.Type, c.Field.Currency}
	}
	return out
}

// writeJSON writes a sheet as one object: what the view says it is, its columns, and its
// rows, each an object. Numbers are written digit by digit as they are kept; dates, moments
// in the zone of the view, and durations are texts; blanks are null.
func writeJSON(ctx context.Context, to io.Writer, s Source, o Options) error {
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	head := struct {
		About
		Columns []jsonColumn `json:"columns"`
	}{s.about(), sheet.described()}
	start, err := marshal(head)
	if err != nil {
		return err
	}
	// The object stays open for the rows.
	if _, err := to.Write(append(bytes.TrimSuffix(start, []byte("}")), `,"rows":[`...)); err != nil {
		return err
	}
	before := "\n"
	err = sheet.eachObject(o.Keys, func(object []byte) error {
		if _, err := io.WriteString(to, before); err != nil {
			return err
		}
		before = ",\n"
		_, err := to.Write(object)
		return err
	})
	if err != nil {
		return err
	}
	_, err = io.WriteString(to, "\n]}\n")
	return err
}

// writeJSONLines writes one object for each row and nothing else.
func writeJSONLines(ctx context.Context, to io.Writer, s Source, o Options) error {
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	return sheet.eachObject(o.Keys, func(object []byte) error {
		_, err := to.Write(append(object, '\n'))
		return err
	})
}

// eachObject calls do for every row as an object, which is used again for the next.
func (s Sheet) eachObject(keys bool, do func([]byte) error) error {
	names, w := make([][]byte, len(s.Columns)), format.NewWriter(format.Plain, s.calendar)
	for i, name := range s.Names(keys) {
		text, err := marshal(name)
		if err != nil {
			return err
		}
		names[i] = append(text, ':')
	}
	var out []byte
	return s.Each(func(row []cell.Cell) error {
		out = append(out[:0], '{')
		for i, c := range row {
			if i > 0 {
				out = append(out, ',')
			}
			out = append(out, names[i]...)
			text := w.Cell(c, s.Columns[i].Field)
			switch c.Kind {
			case cell.Blank:
				out = append(out, "null"...)
			case cell.Number, cell.Approximate, cell.YesNo:
				if c.Kind == cell.Approximate && math.IsInf(c.Float(), 0) {
					text = strconv.Quote(text)
				}
				out = append(out, text...)
			default:
				quoted, err := marshal(text)
				if err != nil {
					return err
				}
				out = append(out, quoted...)
			}
		}
		return do(append(out, '}'))
	})
}

// marshal is json.Marshal that leaves <, > and & as they are.
func marshal(v any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(v); err != nil {
		return nil, err
	}
	return bytes.TrimSuffix(b.Bytes(), []byte("\n")), nil
}
