package export

import (
	"context"
	"fmt"
	"io"
	"slices"

	"github.com/parquet-go/parquet-go"
	"github.com/parquet-go/parquet-go/compress/snappy"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
)

// parquetRows is how many rows are handed over at a time, parquetGroup how many a row group
// has: the part of a file that is kept in memory until it is whole.
const (
	parquetRows  = 1 << 10
	parquetGroup = 1 << 17
)

// writeParquet writes a typed file: exact numbers as DECIMAL, dates as DATE, moments as
// TIMESTAMP in UTC, durations as whole microseconds, texts in dictionaries. What the view
// says, its moment and how each column is to be read stand in the file's metadata.
func writeParquet(ctx context.Context, to io.Writer, s Source, o Options) error {
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	schema := parquetSchema(sheet, o)
	about := s.about()
	text, err := marshal(about)
	if err != nil {
		return err
	}
	described, err := marshal(sheet.described())
	if err != nil {
		return err
	}
	w := parquet.NewGenericWriter[any](
		to, schema, parquet.Compression(&snappy.Codec{}), parquet.MaxRowsPerRowGroup(parquetGroup),
		parquet.CreatedBy("gavrik", "1", ""),
		parquet.KeyValueMetadata("gavrik.brief", about.Brief),
		parquet.KeyValueMetadata("gavrik.asOf", instant(about.AsOf)),
		parquet.KeyValueMetadata("gavrik.about", string(text)),
		parquet.KeyValueMetadata("gavrik.columns", string(described)),
	)
	rows := make([]parquet.Row, 0, parquetRows)
	for i := range parquetRows {
		rows = append(rows[:i], make(parquet.Row, len(sheet.Columns)))
	}
	n := 0
	err = sheet.Each(func(row []cell.Cell) error {
		for i, c := range row {
			v, err := parquetValue(c, sheet.Columns[i])
			if err != nil {
				return err
			}
			rows[n][i] = v.Level(0, defined(c), i)
		}
		if n++; n < parquetRows {
			return nil
		}
		n = 0
		_, err := w.WriteRows(rows)
		return err
	})
	if err != nil {
		return err
	}
	if _, err := w.WriteRows(rows[:n]); err != nil {
		return err
	}
	return w.Close()
}

func defined(c cell.Cell) int {
	if c.Kind == cell.Blank {
		return 0
	}
	return 1
}

// ordered is a group whose fields keep their order: that of the columns.
type ordered struct {
	parquet.Group
	fields []parquet.Field
}

func (o ordered) Fields() []parquet.Field { return o.fields }

// parquetSchema describes the sheet.
func parquetSchema(s Sheet, o Options) *parquet.Schema {
	group, place := parquet.Group{}, map[string]int{}
	for i, name := range s.Names(o.Keys) {
		group[name], place[name] = parquet.Optional(parquetNode(s.Columns[i].Field)), i
	}
	fields := group.Fields()
	slices.SortFunc(fields, func(a, b parquet.Field) int { return place[a.Name()] - place[b.Name()] })
	return parquet.NewSchema("gavrik", ordered{group, fields})
}

// parquetNode is how a field's values are kept.
func parquetNode(f catalog.Field) parquet.Node {
	switch {
	case f.Type == catalog.Date:
		return parquet.Date()
	case f.Type == catalog.DateTime:
		return parquet.Timestamp(parquet.Microsecond)
	case f.Type == catalog.YesNo:
		return parquet.Leaf(parquet.BooleanType)
	case f.Type == catalog.Duration:
		return parquet.Int(64)
	case f.Type == catalog.Picture:
		return parquet.String()
	case f.Type.Numeric() && f.Approx:
		return parquet.Leaf(parquet.DoubleType)
	case f.Type.Numeric() && f.Scale == 0 && f.Type == catalog.Whole:
		return parquet.Int(64)
	case f.Type.Numeric():
		return parquet.Decimal(f.Scale, decimalDigits, parquet.Int64Type)
	}
	return parquet.Encoded(parquet.String(), &parquet.RLEDictionary)
}

// parquetValue is a cell as its column keeps it.
func parquetValue(c cell.Cell, of Column) (parquet.Value, error) {
	switch c.Kind {
	case cell.Blank:
		return parquet.NullValue(), nil
	case cell.Text, cell.Picture:
		return parquet.ByteArrayValue([]byte(c.Text)), nil
	case cell.Date:
		return parquet.Int32Value(int32(c.Int)), nil
	case cell.YesNo:
		return parquet.BooleanValue(c.Int == 1), nil
	case cell.Approximate:
		return parquet.DoubleValue(c.Float()), nil
	case cell.Number:
		if of.Field.Type != catalog.Whole && (c.Int >= largestDecimal || c.Int <= -largestDecimal) {
			return parquet.Value{}, &Refused{"format", fmt.Sprintf(
				"%s has a number of more than %d digits, which Parquet does not keep exactly; take another format, or leave the column behind",
				of.Heading, decimalDigits,
			)}
		}
	}
	return parquet.Int64Value(c.Int), nil
}

// The digits of a DECIMAL that is kept in 64 bits (Apache Parquet, LogicalTypes).
const (
	decimalDigits  = 18
	largestDecimal = 1_000_000_000_000_000_000
)
