package export

import (
	"archive/zip"
	"io"

	"github.com/klauspost/compress/flate"
	"github.com/xuri/excelize/v2"
)

// zipLevel is how hard the sheets of a workbook are compressed: harder takes three times as
// long for a tenth less.
const zipLevel = 3

// maxSheetBytes is how large a sheet may be before it is compressed: past it, its file would
// need a form that spreadsheet programs do not all read.
const maxSheetBytes = 1<<32 - 1<<20

// straight writes a workbook where it belongs as its parts come, and keeps none of it.
func straight(to io.Writer) func(io.Writer) excelize.ZipWriter {
	return func(io.Writer) excelize.ZipWriter {
		z := zip.NewWriter(to)
		z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
			return flate.NewWriter(w, zipLevel)
		})
		return boundedZip{z}
	}
}

// boundedZip bounds its files.
type boundedZip struct{ *zip.Writer }

func (z boundedZip) Create(name string) (io.Writer, error) {
	w, err := z.Writer.Create(name)
	return &boundedFile{w, 0}, err
}

type boundedFile struct {
	io.Writer
	bytes int64
}

func (f *boundedFile) Write(p []byte) (int, error) {
	if f.bytes += int64(len(p)); f.bytes > maxSheetBytes {
		return 0, &Refused{"columns", "a sheet would be larger than spreadsheet programs read; take fewer columns or records"}
	}
	return f.Writer.Write(p)
}
