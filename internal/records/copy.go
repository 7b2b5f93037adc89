package records

import (
	"encoding/binary"
	"errors"
	"fmt"
)

// copyReader takes the stream of COPY … TO STDOUT (FORMAT binary) and hands its
// values to builders. It keeps nothing of the stream but an unfinished row. The
// format: a header of 11 bytes and two 32-bit words, then for each row a 16-bit
// count of fields and each field as a 32-bit length (-1 for null) and its bytes;
// a count of -1 ends it (PostgreSQL's documentation of COPY, "Binary Format").
type copyReader struct {
	builders []builder
	rows     int
	started  bool
	rest     []byte
	progress *Progress // nil tells nobody
	most     int64     // bytes that all tables may have; 0 for no bound
}

// TooLargeError says that the records do not fit into the memory that they may take.
type TooLargeError struct{ Most int64 }

func (e *TooLargeError) Error() string {
	return fmt.Sprintf("the records take more than the %d MB of memory that they may; leave large "+
		"tables in their database with --in-database, read fewer schemas, or give them more with --memory-records", e.Most>>20)
}

const copyHeader = "PGCOPY\n\xff\r\n\x00"

var errCopy = errors.New("records: the database sent something that is not a binary copy")

// Write takes the next piece of the stream.
func (r *copyReader) Write(p []byte) (n int, err error) {
	defer wrongLength(&err)
	before := r.rows
	defer func() {
		if r.progress == nil {
			return
		}
		r.progress.records.Add(int64(r.rows - before))
		if read := r.progress.bytes.Add(int64(len(p))); r.most > 0 && read > r.most && err == nil {
			n, err = 0, &TooLargeError{r.most}
		}
	}()
	data := p
	if len(r.rest) > 0 {
		data = append(r.rest, p...)
	}
	if !r.started {
		if len(data) < len(copyHeader)+8 {
			r.rest = append([]byte(nil), data...)
			return len(p), nil
		}
		if string(data[:len(copyHeader)]) != copyHeader {
			return 0, errCopy
		}
		data = data[len(copyHeader)+8:]
		r.started = true
	}
	for {
		used, err := r.row(data)
		if err != nil {
			return 0, err
		}
		if used == 0 {
			break
		}
		data = data[used:]
	}
	r.rest = append(r.rest[:0:0], data...)
	return len(p), nil
}

// row hands one row on and returns its length, or 0 if data holds no whole row.
func (r *copyReader) row(data []byte) (int, error) {
	if len(data) < 2 {
		return 0, nil
	}
	switch fields := int(int16(binary.BigEndian.Uint16(data))); fields {
	case -1:
		return 0, nil
	case len(r.builders):
	default:
		return 0, fmt.Errorf("%w: a row of %d values, not %d", errCopy, fields, len(r.builders))
	}
	end := 2
	for range r.builders {
		if len(data) < end+4 {
			return 0, nil
		}
		end += 4 + max(0, int(int32(binary.BigEndian.Uint32(data[end:]))))
	}
	if len(data) < end {
		return 0, nil
	}
	at := 2
	for _, b := range r.builders {
		size := int(int32(binary.BigEndian.Uint32(data[at:])))
		at += 4
		if size < 0 {
			b.add(nil)
			continue
		}
		b.add(data[at : at+size : at+size])
		at += size
	}
	r.rows++
	return end, nil
}

// add hands on a row that did not come in a copy.
func (r *copyReader) add(values [][]byte) (err error) {
	defer wrongLength(&err)
	if len(values) != len(r.builders) {
		return fmt.Errorf("%w: a row of %d values, not %d", errCopy, len(values), len(r.builders))
	}
	for i, b := range r.builders {
		b.add(values[i])
	}
	r.rows++
	return nil
}

// wrongLength makes an error of the one that builders meet deep inside, of bytes of a wrong length; see
// errLength.
func wrongLength(err *error) {
	what := recover()
	if what == nil {
		return
	}
	failed, ok := what.(error)
	if !ok || !errors.Is(failed, errLength) {
		panic(what)
	}
	*err = failed
}
