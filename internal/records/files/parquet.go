package files

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"math/big"
	"strconv"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/deprecated"
	"github.com/parquet-go/parquet-go/format"

	"gavrik/internal/core/turn"
)

// openParquet makes out a Parquet file. Columns that hold lists or groups are left out.
func (f *File) openParquet(ctx context.Context) error {
	file, err := parquet.OpenFile(f.in, f.in.Size(), parquet.SkipBloomFilters(true))
	if err != nil {
		return refuse("the Parquet file is damaged: %s", err)
	}
	for _, group := range file.Metadata().RowGroups {
		for _, c := range group.Columns {
			if n := c.MetaData.TotalUncompressedSize; n > maxChunk {
				return refuse("a part of the column %s unpacks to %d MB; at most %d MB are taken. Write the file in smaller row groups",
					strings.Join(c.MetaData.PathInSchema, "."), n>>20, maxChunk>>20)
			}
		}
	}
	if err := turn.Of(ctx).Book(ctx, parquetBytes); err != nil {
		return err
	}
	var nested []string
	places := map[int]int{} // headings by the number of the leaf column
	var writers []func(parquet.Value) string
	column := 0
	for _, field := range file.Root().Columns() {
		leaves := leavesOf(field)
		if !field.Leaf() || field.Repeated() {
			nested = append(nested, field.Name())
		} else {
			places[column] = len(writers)
			writers = append(writers, writerOf(field))
			f.Headings = append(f.Headings, field.Name())
		}
		column += leaves
	}
	switch {
	case len(f.Headings) == 0:
		return refuse("all columns of the file hold lists or groups; write them as plain columns")
	case len(f.Headings) > MaxFields:
		return refuse("the file has %d fields; at most %d are taken", len(f.Headings), MaxFields)
	case len(nested) > 0:
		f.Notices = append(f.Notices, fmt.Sprintf("Left out, because they hold lists or groups: %s.",
			strings.Join(nested[:min(len(nested), 10)], ", ")))
	}
	f.body = func(context.Context) (Rows, error) {
		return &parquetRows{
			file: file, groups: file.RowGroups(), places: places, writers: writers, size: f.in.Size(),
			buf: make([]parquet.Row, 256),
		}, nil
	}
	return nil
}

// parquetBytes is about what reading a Parquet file holds: a page of each column.
const parquetBytes = 128 << 20

// maxChunk is how many bytes a column of a row group may unpack to.
const maxChunk = 256 << 20

func leavesOf(c *parquet.Column) int {
	if c.Leaf() {
		return 1
	}
	n := 0
	for _, child := range c.Columns() {
		n += leavesOf(child)
	}
	return n
}

// writerOf writes values of a column as text (Apache Parquet's logical types).
func writerOf(c *parquet.Column) func(parquet.Value) string {
	t := c.Type()
	var logical format.LogicalTypeValue
	if l := t.LogicalType(); l != nil {
		logical = l.Value
	}
	switch as := logical.(type) {
	case *format.DateType:
		return func(v parquet.Value) string {
			return time.Unix(int64(v.Int32())*86400, 0).UTC().Format(time.DateOnly)
		}
	case *format.TimestampType:
		return momentWriter(as)
	case *format.DecimalType:
		return func(v parquet.Value) string { return decimal(v, int(as.Scale)) }
	case *format.UUIDType:
		return func(v parquet.Value) string { return dashed(hex.EncodeToString(v.ByteArray())) }
	case *format.IntType:
		switch {
		case !as.IsSigned && t.Kind() == parquet.Int32:
			return func(v parquet.Value) string { return strconv.FormatUint(uint64(v.Uint32()), 10) }
		case !as.IsSigned:
			return func(v parquet.Value) string { return strconv.FormatUint(v.Uint64(), 10) }
		}
	}
	switch t.Kind() {
	case parquet.Boolean:
		return func(v parquet.Value) string { return strconv.FormatBool(v.Boolean()) }
	case parquet.Int32:
		return func(v parquet.Value) string { return strconv.FormatInt(int64(v.Int32()), 10) }
	case parquet.Int64:
		return func(v parquet.Value) string { return strconv.FormatInt(v.Int64(), 10) }
	case parquet.Float:
		return func(v parquet.Value) string { return strconv.FormatFloat(float64(v.Float()), 'f', -1, 32) }
	case parquet.Double:
		return func(v parquet.Value) string { return strconv.FormatFloat(v.Double(), 'f', -1, 64) }
	case parquet.Int96:
		return func(v parquet.Value) string { return int96(v.Int96()).Format(time.RFC3339Nano) }
	}
	return func(v parquet.Value) string { return string(v.ByteArray()) }
}

// dashed is how a UUID is written.
func dashed(h string) string {
	if len(h) != 32 {
		return h
	}
	return h[:8] + "-" + h[8:12] + "-" + h[12:16] + "-" + h[16:20] + "-" + h[20:]
}

// momentWriter writes timestamps: with their zone, if they are of a moment.
func momentWriter(t *format.TimestampType) func(parquet.Value) string {
	unit := time.Nanosecond
	if t.Unit.Value != nil {
		unit = t.Unit.Value.Duration()
	}
	layout := "2006-01-02T15:04:05.999999"
	if t.IsAdjustedToUTC {
		layout += "Z07:00"
	}
	per := int64(time.Second / unit)
	return func(v parquet.Value) string {
		n := v.Int64()
		return time.Unix(n/per, n%per*int64(unit)).UTC().Format(layout)
	}
}

func decimal(v parquet.Value, scale int) string {
	n := new(big.Int)
	switch v.Kind() {
	case parquet.Int32:
		n.SetInt64(int64(v.Int32()))
	case parquet.Int64:
		n.SetInt64(v.Int64())
	default: // in two's complement, the highest byte first
		b := v.ByteArray()
		if n.SetBytes(b); len(b) > 0 && b[0] >= 0x80 {
			n.Sub(n, new(big.Int).Lsh(big.NewInt(1), uint(8*len(b))))
		}
	}
	digits := new(big.Int).Abs(n).String()
	if scale > 0 {
		if len(digits) <= scale {
			digits = strings.Repeat("0", scale+1-len(digits)) + digits
		}
		digits = strings.TrimRight(digits[:len(digits)-scale]+"."+digits[len(digits)-scale:], "0")
		digits = strings.TrimSuffix(digits, ".")
	}
	if n.Sign() < 0 {
		return "-" + digits
	}
	return digits
}

// int96 is a moment as it was written long ago: nanoseconds of a day, and the Julian day.
func int96(v deprecated.Int96) time.Time {
	const julian1970 = 2440588
	nanos := int64(uint64(v[1])<<32 | uint64(v[0]))
	return time.Unix((int64(v[2])-julian1970)*86400, nanos).UTC()
}

type parquetRows struct {
	file    *parquet.File
	groups  []parquet.RowGroup
	group   int
	rows    parquet.Rows
	ended   bool // nothing more comes of rows
	buf     []parquet.Row
	ready   []parquet.Row
	line    int
	size    int64
	places  map[int]int
	writers []func(parquet.Value) string
}

func (p *parquetRows) Next() (Row, error) {
	for len(p.ready) == 0 {
		if p.ended { // values live in its pages until then
			if err := p.Close(); err != nil {
				return Row{}, err
			}
		}
		if p.rows == nil {
			if p.group == len(p.groups) {
				return Row{}, io.EOF
			}
			p.rows = p.groups[p.group].Rows()
			p.group++
		}
		n, err := p.rows.ReadRows(p.buf)
		p.ready = p.buf[:n]
		switch {
		case errors.Is(err, io.EOF):
			p.ended = true
		case err != nil:
			return Row{}, refuse("the Parquet file is damaged behind row %d: %s", p.line+n, err)
		}
	}
	p.line++
	row := Row{Line: p.line, Cells: make([]string, len(p.writers))}
	for _, v := range p.ready[0] {
		if place, ok := p.places[v.Column()]; ok && !v.IsNull() {
			row.Cells[place] = p.writers[place](v)
		}
	}
	p.ready = p.ready[1:]
	return row, nil
}

// Read is the share of the rows that were read, in bytes of the file.
func (p *parquetRows) Read() int64 {
	return int64(float64(p.size) * float64(p.line) / float64(max(p.file.NumRows(), 1)))
}

func (p *parquetRows) Close() (err error) {
	if p.rows != nil {
		err = p.rows.Close()
		p.rows, p.ended = nil, false
	}
	return err
}
