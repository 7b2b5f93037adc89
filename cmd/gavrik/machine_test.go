package main

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestMachineMemory(t *testing.T) {
	root := t.TempDir()
	write := func(path, text string) {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(root, path)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(root, path), []byte(text), 0o644))
	}
	require.Zero(t, machineMemory(root), "it cannot be told")
	write("proc/meminfo", "MemTotal:       16384000 kB\nMemFree:  12 kB\n")
	require.Equal(t, int64(16384000<<10), machineMemory(root))
	write("sys/fs/cgroup/memory.max", "max\n")
	require.Equal(t, int64(16384000<<10), machineMemory(root))
	write("sys/fs/cgroup/memory.max", "1073741824\n")
	require.Equal(t, int64(1<<30), machineMemory(root))
}
