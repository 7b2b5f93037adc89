package records

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
)

const (
	sampleRows = 1000
	// samplePlaces are where in a file samples are taken: a column of numbers may hold
	// words only at its end.
	samplePlaces = 10
	// smallFile is up to where one place, the beginning, is enough.
	smallFile = 1 << 20
)

// spooled is a file that can be read at any place: one that is a stream is written to
// disk first. done removes what was written.
func spooled(file io.Reader) (in io.ReadSeeker, size int64, done func(), err error) {
	s, seeks := file.(io.ReadSeeker)
	if f, ok := file.(*os.File); ok { // a pipe is one, too
		info, err := f.Stat()
		seeks = err == nil && info.Mode().IsRegular()
	}
	if seeks {
		if size, err = s.Seek(0, io.SeekEnd); err == nil {
			_, err = s.Seek(0, io.SeekStart)
		}
		return s, size, func() {}, err
	}
	spool, err := os.CreateTemp("", "gavrik-import-*")
	if err != nil {
		return nil, 0, nil, fmt.Errorf("records: %w", err)
	}
	done = func() { _, _ = spool.Close(), os.Remove(spool.Name()) } // the system removes it in any case
	size, err = io.Copy(spool, file)
	if err == nil {
		_, err = spool.Seek(0, io.SeekStart)
	}
	if err != nil {
		done()
		return nil, 0, nil, fmt.Errorf("the file could not be read to its end: %w", err)
	}
	return spool, size, done, nil
}

// sample takes rows from all over the file. A place within a row begins with its next
// line; what does not have as many fields as the heading is passed over.
func (im *importer) sample(file io.ReadSeeker, size int64) ([][]string, error) {
	places := int64(samplePlaces)
	if size < smallFile {
		places = 1
	}
	var out [][]string
	for place := range places {
		from := im.body + (size-im.body)/places*place
		if _, err := file.Seek(from, io.SeekStart); err != nil {
			return nil, fmt.Errorf("records: %w", err)
		}
		rows := im.rowsOf(file)
		rows.fields = len(im.names)
		wanted := len(out) + sampleRows/int(places)
		for first := place > 0; len(out) < wanted; {
			r, err := rows.next()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return nil, err
			}
			if !first && r.err == nil && len(r.fields) == len(im.names) {
				out = append(out, r.fields)
			}
			first = false
		}
	}
	return out, nil
}

// rowsOf reads rows from where a file stands.
func (im *importer) rowsOf(file io.Reader) *rowReader {
	if im.bareReturns {
		file = carriageReturns{file}
	}
	return newRowReader(bufio.NewReaderSize(file, 64<<10), im.comma)
}
