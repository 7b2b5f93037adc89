package fault

import (
	"errors"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestPanicsBecomeErrorsWithTheirPlace(t *testing.T) {
	mine := errors.New("mine")
	require.ErrorIs(t, Caught(func() error { return mine }), mine)
	err := Caught(func() error {
		var list []int
		_ = list[len(list)]
		return nil
	})
	var caught *Error
	require.ErrorAs(t, err, &caught)
	require.Contains(t, err.Error(), "index out of range")
	require.NotContains(t, err.Error(), "fault_test.go", "the place is for the log")
	require.Contains(t, caught.Stack, "fault_test.go")
	require.ErrorIs(t, Caught(func() error { panic(mine) }), mine)
}

func TestOneOfAGroupFails(t *testing.T) {
	var group Group
	var done atomic.Int32
	failing := make(chan struct{})
	group.Go(func() { defer close(failing); panic("broken") })
	<-failing
	for range 3 {
		group.Go(func() { done.Add(1) })
	}
	err := group.Wait()
	require.EqualError(t, err, "a fault in the program: broken")
	require.True(t, group.Failed())
	require.EqualValues(t, 3, done.Load(), "the others end as they will")
	var none Group
	none.Go(func() {})
	require.NoError(t, none.Wait())
}
