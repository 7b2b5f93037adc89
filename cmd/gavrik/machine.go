package main

import (
	"math"
	"os"
	"strconv"
	"strings"
)

// machineMemory is how many bytes of memory this process may take as a whole: those of the machine, or of the
// group that it is confined to (cgroup v2, "memory.max"); 0 if that cannot be told.
func machineMemory(root string) int64 {
	most := int64(math.MaxInt64)
	if text, err := os.ReadFile(root + "/proc/meminfo"); err == nil {
		for line := range strings.Lines(string(text)) {
			words := strings.Fields(line)
			if len(words) >= 2 && words[0] == "MemTotal:" {
				if n, err := strconv.ParseInt(words[1], 10, 64); err == nil {
					most = min(most, n<<10)
				}
			}
		}
	}
	if text, err := os.ReadFile(root + "/sys/fs/cgroup/memory.max"); err == nil {
		if n, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64); err == nil {
			most = min(most, n)
		}
	}
	if most == math.MaxInt64 {
		return 0
	}
	return most
}
