package incoming

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/table"
	"gavrik/internal/records/files"
)

// copyHeader begins what COPY … FROM STDIN (FORMAT binary) takes; see PostgreSQL's documentation of
// COPY, "Binary Format".
const copyHeader = "PGCOPY\n\xff\r\n\x00"

var big = binary.BigEndian

// PostgreSQL counts days and microseconds from 2000-01-01.
var (
	epochDays   = calendar.FromDate(2000, 1, 1)
	epochMicros = epochDays * calendar.DayLen
)

// begin begins what is sent.
func begin() []byte { return []byte(copyHeader + "\x00\x00\x00\x00\x00\x00\x00\x00") }

// ended ends what is sent.
func ended(piece []byte) []byte { return append(piece, 0xff, 0xff) }

// sendAll sends rows that are all in memory.
func sendAll(ctx context.Context, tx pgx.Tx, into string, columns []string, piece []byte) error {
	sql := fmt.Sprintf("COPY %s (%s) FROM STDIN (FORMAT binary)", into, quoted(columns, ""))
	_, err := tx.Conn().PgConn().CopyFrom(ctx, bytes.NewReader(ended(piece)), sql)
	return wrapped(err)
}

// appendRow appends a row with its line.
func appendRow(b []byte, line int64, values []files.Value, fields []files.RecipeField) []byte {
	b = big.AppendUint16(b, uint16(len(values)+1))
	return appendEach(appendInt64(b, line), values, fields)
}

// appendValues appends a row.
func appendValues(b []byte, values []files.Value, fields []files.RecipeField) []byte {
	return appendEach(big.AppendUint16(b, uint16(len(values))), values, fields)
}

func appendEach(b []byte, values []files.Value, fields []files.RecipeField) []byte {
	for i, v := range values {
		switch n := v.Number.Value; {
		case !v.Filled:
			b = append(b, 0xff, 0xff, 0xff, 0xff)
		case fields[i].Type == catalog.Text:
			b = append(big.AppendUint32(b, uint32(len(v.Text))), v.Text...)
		default:
			b = appendNumber(b, fields[i].Type, n, v.Number)
		}
	}
	return b
}

func appendNumber(b []byte, t catalog.Type, n int64, e reading.Exact) []byte {
	switch t {
	case catalog.Whole:
		return appendInt64(b, n)
	case catalog.Date:
		return big.AppendUint32(big.AppendUint32(b, 4), uint32(int32(n-epochDays)))
	case catalog.DateTime:
		return appendInt64(b, n-epochMicros)
	case catalog.Duration: // microseconds; days and months stay 0
		b = big.AppendUint64(big.AppendUint32(b, 16), uint64(n))
		return append(b, 0, 0, 0, 0, 0, 0, 0, 0)
	case catalog.YesNo:
		return append(b, 0, 0, 0, 1, byte(n))
	}
	return appendNumeric(b, e)
}

func appendInt64(b []byte, n int64) []byte {
	return big.AppendUint64(big.AppendUint32(b, 8), uint64(n))
}

// appendNumeric appends a decimal: how many digits to the base of 10,000 there are, how much the first
// of them weighs, the sign, the number of decimals, and the digits.
func appendNumeric(b []byte, e reading.Exact) []byte {
	const positive, negative = 0x0000, 0x4000
	const base = 10_000
	sign, n := uint16(positive), uint64(e.Value)
	if e.Value < 0 {
		sign, n = negative, -n
	}
	unit := uint64(table.Pow10(e.Scale))
	whole, part := n/unit, n%unit
	var digits [8]uint16 // 19 digits before the point are five of them, nine behind it three
	first := 5
	for at := 5; whole > 0; whole /= base {
		at--
		first, digits[at] = at, uint16(whole%base)
	}
	last := 5
	for scale := e.Scale; scale > 0; scale -= 4 {
		if scale < 4 {
			digits[last] = uint16(part * uint64(table.Pow10(4-scale)))
		} else {
			below := uint64(table.Pow10(scale - 4))
			digits[last] = uint16(part / below)
			part %= below
		}
		last++
	}
	count := last - first
	b = big.AppendUint32(b, uint32(8+2*count))
	b = big.AppendUint16(b, uint16(count))
	b = big.AppendUint16(b, uint16(int16(4-first)))
	b = big.AppendUint16(b, sign)
	b = big.AppendUint16(b, uint16(e.Scale))
	for _, d := range digits[first:last] {
		b = big.AppendUint16(b, d)
	}
	return b
}
