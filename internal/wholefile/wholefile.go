// Package wholefile writes files that are there as a whole or not at all.
package wholefile

import (
	"bufio"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
)

// Write writes a file beside its place, and puts it there once all of it lies on the disk. Until then, and if
// it fails, what was there stays. Files that an ended process leaves behind begin with a point.
func Write(path string, mode fs.FileMode, write func(io.Writer) error) (err error) {
	part, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+"-")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, os.Remove(part.Name()))
		}
	}()
	b := bufio.NewWriterSize(part, 1<<16)
	err = write(b)
	if err == nil {
		err = errors.Join(b.Flush(), part.Chmod(mode), part.Sync())
	}
	if err = errors.Join(err, part.Close()); err != nil {
		return err
	}
	return os.Rename(part.Name(), path)
}
