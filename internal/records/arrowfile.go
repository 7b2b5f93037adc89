package records

import (
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"unsafe"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"
	"github.com/apache/arrow-go/v18/arrow/bitutil"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/apache/arrow-go/v18/arrow/memory"

	"gavrik/internal/core/table"
)

// linkPrefix begins the names of columns that say which rows a link leads to, from 0 on.
const linkPrefix = "link "

// textType is that of texts: 32 bits number those of the dictionary, and 64 say where they begin.
func textType(ordered bool) *arrow.DictionaryType {
	return &arrow.DictionaryType{
		IndexType: arrow.PrimitiveTypes.Uint32, ValueType: arrow.BinaryTypes.LargeString, Ordered: ordered,
	}
}

// writeArrow writes columns and links as a file of one record batch (Apache Arrow Columnar Format, "IPC File
// Format"). Blanks are nulls of numbers and empty texts.
func writeArrow(
	to io.Writer, rows int, columns map[string]table.Column, links map[string]*table.Links,
) (err error) {
	var fields []arrow.Field
	var arrays []arrow.Array
	add := func(name string, a arrow.Array) {
		fields = append(fields, arrow.Field{Name: name, Type: a.DataType(), Nullable: true})
		arrays = append(arrays, a)
	}
	for _, name := range sortedKeys(columns) {
		switch c := columns[name].(type) {
		case *table.Numbers:
			valid, nulls := validity(len(c.Values), func(i int) bool { return c.Values[i] != table.Blank })
			add(name, array.NewInt64Data(array.NewData(
				arrow.PrimitiveTypes.Int64, rows, []*memory.Buffer{valid, bufferOf(c.Values)}, nil, nulls, 0)))
		case *table.Floats:
			valid, nulls := validity(len(c.Values), func(i int) bool { return !math.IsNaN(c.Values[i]) })
			add(name, array.NewFloat64Data(array.NewData(
				arrow.PrimitiveTypes.Float64, rows, []*memory.Buffer{valid, bufferOf(c.Values)}, nil, nulls, 0)))
		case *table.Texts:
			p := c.Parts()
			starts := make([]int64, len(p.Ends)+1)
			for i, end := range p.Ends {
				starts[i+1] = int64(end)
			}
			text := memory.NewBufferBytes(unsafe.Slice(unsafe.StringData(p.Text), len(p.Text)))
			texts := array.NewLargeStringData(array.NewData(
				arrow.BinaryTypes.LargeString, len(p.Ends), []*memory.Buffer{nil, bufferOf(starts), text}, nil, 0, 0))
			codes := array.NewUint32Data(array.NewData(
				arrow.PrimitiveTypes.Uint32, rows, []*memory.Buffer{nil, bufferOf(p.Codes)}, nil, 0, 0))
			add(name, array.NewDictionaryArray(textType(!p.Unordered), codes, texts))
		}
	}
	for _, name := range sortedKeys(links) {
		to := links[name].Rows
		valid, nulls := validity(len(to), func(i int) bool { return to[i] >= 0 })
		add(linkPrefix+name, array.NewInt32Data(array.NewData(
			arrow.PrimitiveTypes.Int32, rows, []*memory.Buffer{valid, bufferOf(to)}, nil, nulls, 0)))
	}
	schema := arrow.NewSchema(fields, nil)
	w, err := ipc.NewFileWriter(to, ipc.WithSchema(schema))
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	batch := array.NewRecordBatch(schema, arrays, int64(rows))
	return errors.Join(w.Write(batch), w.Close())
}

// validity is the bitmap of what is not null; none if nothing is.
func validity(n int, valid func(i int) bool) (*memory.Buffer, int) {
	bits, nulls := make([]byte, bitutil.BytesForBits(int64(n))), 0
	for i := range n {
		if valid(i) {
			bits[i/8] |= 1 << (i % 8)
		} else {
			nulls++
		}
	}
	if nulls == 0 {
		return nil, 0
	}
	return memory.NewBufferBytes(bits), nulls
}

func bufferOf[T int64 | float64 | uint32 | int32](values []T) *memory.Buffer {
	if len(values) == 0 {
		return memory.NewBufferBytes(nil)
	}
	size := int(unsafe.Sizeof(values[0])) * len(values)
	return memory.NewBufferBytes(unsafe.Slice((*byte)(unsafe.Pointer(&values[0])), size))
}

func sortedKeys[T any](m map[string]T) []string {
	out := make([]string, 0, len(m))
	for key := range m {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

// errFile says that a file is not what was written.
var errFile = errors.New("records: the file is not what was written")

// readArrow reads what writeArrow has written. Where links lead is for the caller to say.
func readArrow(file ipc.ReadAtSeeker, rows int) (
	columns map[string]table.Column, links map[string]*table.Links, err error,
) {
	defer func() { // a file whose checksum is right, and that is none of ours all the same
		if what := recover(); what != nil {
			err = fmt.Errorf("%w: %v", errFile, what)
		}
	}()
	r, err := ipc.NewFileReader(file, ipc.WithBodySizeLimit(math.MaxInt64))
	if err != nil {
		return nil, nil, fmt.Errorf("%w: %w", errFile, err)
	}
	defer r.Close()
	batch, err := r.RecordBatch(0)
	if err != nil {
		return nil, nil, fmt.Errorf("%w: %w", errFile, err)
	}
	if batch.NumRows() != int64(rows) {
		return nil, nil, fmt.Errorf("%w: %d rows, not %d", errFile, batch.NumRows(), rows)
	}
	columns, links = map[string]table.Column{}, map[string]*table.Links{}
	for i, f := range batch.Schema().Fields() {
		switch a := batch.Column(i).(type) {
		case *array.Int64:
			columns[f.Name] = table.NewNumbers(a.Int64Values())
		case *array.Float64:
			columns[f.Name] = table.NewFloats(a.Float64Values())
		case *array.Dictionary:
			columns[f.Name], err = textsOf(a, rows)
		case *array.Int32:
			name, ok := strings.CutPrefix(f.Name, linkPrefix)
			if ok {
				links[name] = &table.Links{Rows: a.Int32Values()}
			}
		default:
			err = fmt.Errorf("%w: a column of the type %s", errFile, f.Type)
		}
		if err != nil {
			return nil, nil, err
		}
	}
	return columns, links, nil
}

// textsOf is a column of a dictionary. Codes that lie outside of it would end the process later.
func textsOf(a *array.Dictionary, rows int) (table.Column, error) {
	texts, ok := a.Dictionary().(*array.LargeString)
	codes, also := a.Indices().(*array.Uint32)
	if !ok || !also || codes.Len() != rows || texts.Len() == 0 {
		return nil, errFile
	}
	for _, code := range codes.Uint32Values() {
		if int(code) >= texts.Len() {
			return nil, errFile
		}
	}
	starts := texts.ValueOffsets()
	ends := make([]uint32, texts.Len())
	for i := range ends {
		ends[i] = uint32(starts[i+1] - starts[0])
	}
	text := texts.ValueBytes()
	return table.TextsOf(table.Parts{
		Codes: codes.Uint32Values(), Text: unsafe.String(unsafe.SliceData(text), len(text)), Ends: ends,
		Unordered: !a.DataType().(*arrow.DictionaryType).Ordered,
	}), nil
}
