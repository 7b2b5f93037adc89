package files

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/go-json-experiment/json/jsontext"
)

// openJSONLines makes out a file with an object on each line. The columns are all names that stand
// in the rows looked at.
func (f *File) openJSONLines(ctx context.Context) error {
	var err error
	if f.Encoding == "" {
		if f.Encoding, err = encodingOf(f.in); err != nil {
			return err
		}
	}
	known := map[string]int{}
	rows := f.objects(known, true)
	for n := 0; f.in.Size() <= looked || n < jsonRows; n++ {
		if n%1000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if _, err := rows.Next(); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return err
		}
		if len(known) > MaxFields {
			return refuse("its objects have more than %d different names; at most so many fields are taken", MaxFields)
		}
	}
	if len(known) == 0 {
		return refuse("no line of the file is a JSON object")
	}
	f.Headings = make([]string, len(known))
	for name, i := range known {
		f.Headings[i] = name
	}
	if rows.nested != "" {
		f.Notices = append(f.Notices, fmt.Sprintf("“%s” holds lists or objects; they come in as texts.", rows.nested))
	}
	f.body = func(context.Context) (Rows, error) { return f.objects(known, false), nil }
	return nil
}

// jsonRows is how many rows of a large file are looked at for names.
const jsonRows = 100_000

func (f *File) objects(known map[string]int, learning bool) *objectRows {
	in, counted := plain(f.in, f.Encoding)
	return &objectRows{
		lines: &lineReader{in: bufio.NewReaderSize(in, 256<<10)}, counted: counted,
		known: known, learning: learning,
	}
}

type objectRows struct {
	lines   *lineReader
	counted *counting
	known   map[string]int
	// learning adds names that are not known yet.
	learning bool
	nested   string // the first name whose value is a list or an object
}

func (o *objectRows) Next() (Row, error) {
	for {
		l, err := o.lines.next()
		if err != nil {
			return Row{}, err
		}
		if l.long {
			return Row{Line: l.number, Wrong: errRowLong, Raw: l.text}, nil
		}
		if strings.TrimSpace(l.text) == "" {
			continue
		}
		return o.row(l), nil
	}
}

func (o *objectRows) row(l line) Row {
	row := Row{Line: l.number, Raw: strings.TrimRight(l.text, "\r\n")}
	row.Cells = make([]string, len(o.known), max(len(o.known), 8))
	if err := o.object(l.text, &row); err != nil {
		row.Cells, row.Wrong = nil, err
	}
	return row
}

var errNoObject = errors.New("the line is no JSON object")

func (o *objectRows) object(text string, row *Row) error {
	d := jsontext.NewDecoder(strings.NewReader(text))
	if t, err := d.ReadToken(); err != nil || t.Kind() != '{' {
		return errNoObject
	}
	for d.PeekKind() != '}' {
		t, err := d.ReadToken()
		if err != nil {
			return fmt.Errorf("the line is no JSON: %w", inWords(err))
		}
		name := t.String()
		place, ok := o.known[name]
		switch {
		case len(name) > maxHeading:
			return fmt.Errorf("a field's name is longer than %d letters", maxHeading)
		case !ok && !o.learning:
			return fmt.Errorf("it has a field “%s”, which no row had that was looked at", name)
		case !ok && len(o.known) > MaxFields:
			return nil
		case !ok:
			place = len(o.known)
			o.known[name] = place
			row.Cells = append(row.Cells, "")
		}
		value, err := d.ReadValue()
		if err != nil {
			return fmt.Errorf("the line is no JSON: %w", inWords(err))
		}
		switch value.Kind() {
		case 'n':
		case '"':
			unquoted, err := jsontext.AppendUnquote(nil, value)
			if err != nil {
				return fmt.Errorf("the line is no JSON: %w", inWords(err))
			}
			row.Cells[place] = string(unquoted)
		case '{', '[':
			if o.nested == "" {
				o.nested = name
			}
			row.Cells[place] = string(value)
		default:
			row.Cells[place] = string(value)
		}
	}
	if _, err := d.ReadToken(); err != nil {
		return fmt.Errorf("the line is no JSON: %w", inWords(err))
	}
	if rest := strings.TrimSpace(text[d.InputOffset():]); rest != "" {
		return errors.New("something stands behind the object")
	}
	return nil
}

// inWords is what a JSON decoder complains of, without its own names.
func inWords(err error) error {
	var at *jsontext.SyntacticError
	if errors.As(err, &at) {
		if errors.Is(err, io.ErrUnexpectedEOF) {
			return errors.New("it ends too early")
		}
		return fmt.Errorf("at byte %d, %w", at.ByteOffset+1, at.Err)
	}
	return err
}

func (o *objectRows) Read() int64  { return o.counted.n }
func (o *objectRows) Close() error { return nil }
