package files

import (
	"errors"

	"gavrik/internal/core/fault"
)

// caught makes an error of a panic: readers of formats meet files that were made to mislead them.
func caught(do func() error) error {
	err := fault.Caught(do)
	var panicked *fault.Error
	if errors.As(err, &panicked) {
		return refuse("the file is damaged: it cannot be read to its end (%v)", panicked.What)
	}
	return err
}
