package kept

import (
	"bytes"
	"encoding/binary"
	"encoding/gob"
	"encoding/json"
	"errors"
	"fmt"
	"hash/crc64"
	"io"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// format is how results are written down; another way gets another number.
const format = 1

// written is a result as it is written down. The plan and what is said of the whole are JSON, as
// plans are everywhere; lines are arrays.
type written struct {
	Format        int
	Summary, Plan []byte
	Groups        []group
	Figures       []column
	Records       []column
	Addresses     column
	Rows          int
	Bars          map[int32][]result.Bar
	Counts        [][]int
}

// sums are the table of the check that stands before a result that is written down.
var sums = crc64.MakeTable(crc64.ECMA)

// Write writes a result down, uncompressed.
func (k *Result) Write(to io.Writer) error {
	sum := k.sum
	sum.Plan = nil
	w := written{
		Format: format, Groups: k.groups, Figures: k.figures, Records: k.records, Addresses: k.addresses, Rows: k.rows,
		Bars: k.bars, Counts: k.counts,
	}
	var err error
	if w.Summary, err = json.Marshal(sum); err != nil {
		return fmt.Errorf("kept: %w", err)
	}
	if w.Plan, err = json.Marshal(k.sum.Plan); err != nil {
		return fmt.Errorf("kept: %w", err)
	}
	var text bytes.Buffer
	if err := gob.NewEncoder(&text).Encode(w); err != nil {
		return fmt.Errorf("kept: %w", err)
	}
	check := binary.BigEndian.AppendUint64(nil, crc64.Checksum(text.Bytes(), sums))
	if _, err := to.Write(append(check, text.Bytes()...)); err != nil {
		return fmt.Errorf("kept: %w", err)
	}
	return nil
}

// Read reads a result that was written down. One that was changed or cut since is refused.
func Read(from io.Reader) (*Result, error) {
	text, err := io.ReadAll(from)
	if err != nil {
		return nil, fmt.Errorf("kept: %w", err)
	}
	if len(text) < 8 || binary.BigEndian.Uint64(text) != crc64.Checksum(text[8:], sums) {
		return nil, errors.New("kept: the result is not whole any more")
	}
	var w written
	if err := gob.NewDecoder(bytes.NewReader(text[8:])).Decode(&w); err != nil {
		return nil, fmt.Errorf("kept: %w", err)
	}
	if w.Format != format {
		return nil, fmt.Errorf("kept: a result of the format %d cannot be read by this version", w.Format)
	}
	k := &Result{
		groups: w.Groups, figures: w.Figures, records: w.Records, addresses: w.Addresses, rows: w.Rows, bars: w.Bars,
		counts: w.Counts,
	}
	p := &plan.Plan{}
	if err := errors.Join(json.Unmarshal(w.Summary, &k.sum), json.Unmarshal(w.Plan, p)); err != nil {
		return nil, fmt.Errorf("kept: %w", err)
	}
	k.sum.Plan = p
	if len(k.figures) != len(k.sum.Heads) || len(k.records) != len(k.sum.Heads) || k.rows < 0 {
		return nil, errors.New("kept: the result does not hold together: its columns")
	}
	return k, k.ready()
}
