// Package core holds nothing itself; its tests hold the rooms apart.
package core

import (
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// allowedOutside is what the core may import beside the standard library and itself.
var allowedOutside = []string{
	"golang.org/x/text/", "github.com/go-json-experiment/json", "github.com/zeebo/xxh3",
}

// forbiddenStandard would let the core reach the world or a clock of its own.
var forbiddenStandard = map[string]bool{
	"net": true, "net/http": true, "os": true, "database/sql": true, "io/fs": true, "os/exec": true, "log": true,
	"log/slog": true,
}

func TestCoreImportsNoOtherRoom(t *testing.T) {
	for pkg, imports := range importsOf(t, "gavrik/internal/core/...") {
		for _, i := range imports {
			switch {
			case strings.HasPrefix(i, "gavrik/"):
				require.True(t, strings.HasPrefix(i, "gavrik/internal/core/"), "%s imports %s", pkg, i)
			case strings.Contains(strings.Split(i, "/")[0], "."):
				ok := false
				for _, allowed := range allowedOutside {
					ok = ok || strings.HasPrefix(i, allowed)
				}
				require.True(t, ok, "%s imports %s", pkg, i)
			default:
				require.False(t, forbiddenStandard[i], "%s imports %s", pkg, i)
			}
		}
	}
}

// What the engine is made of is the engine's own, and the door knows nothing of it.
func TestTheEngineIsBehindItsDoor(t *testing.T) {
	const engine = "gavrik/internal/core/engine"
	within := func(pkg string) bool { return pkg == engine || strings.HasPrefix(pkg, engine+"/") }
	above := []string{"core/result", "core/chart", "core/explain", "core/brief", "export", "web"}
	for pkg, imports := range importsOf(t, "gavrik/...") {
		for _, i := range imports {
			require.False(t, strings.HasPrefix(i, engine+"/") && !within(pkg), "%s imports %s", pkg, i)
			if slices.Contains(above, strings.TrimPrefix(pkg, "gavrik/internal/")) {
				require.NotContains(t, []string{engine, "gavrik/internal/core/table"}, i, pkg)
			}
		}
	}
}

// A room imports rooms of a lower rank only.
func TestImportsRunOneWay(t *testing.T) {
	rank := map[string]int{
		"core": 0, "localpg": 0, "wholefile": 0, "scheduler": 1, "records": 1, "store": 1,
		"people": 2, "export": 2, "pgreader": 2, "app": 3,
		"bench": 3, "demo": 4, "deliver": 4, "web": 5,
	}
	for pkg, imports := range importsOf(t, "gavrik/internal/...") {
		from, known := rank[room(pkg)]
		require.True(t, known, "%s lies in no room", pkg)
		for _, i := range imports {
			if strings.HasPrefix(i, "gavrik/internal/") && room(i) != room(pkg) {
				require.Less(t, rank[room(i)], from, "%s imports %s", pkg, i)
			}
			require.NotEqual(t, "gavrik/web", i, "only the command line holds the built front end")
		}
	}
}

func TestCoreReadsNoClock(t *testing.T) {
	out, err := exec.Command(
		"grep", "-rnE", `time\.(Now|Since|Until|After|NewTimer|NewTicker)\(`, "--include=*.go", ".",
	).CombinedOutput()
	for line := range strings.Lines(string(out)) {
		require.Contains(t, line, "_test.go:", "the core is given its moment")
	}
	if err != nil { // grep found nothing
		require.Empty(t, string(out))
	}
}

func room(pkg string) string {
	return strings.Split(strings.TrimPrefix(pkg, "gavrik/internal/"), "/")[0]
}

// importsOf lists what the packages' own code imports, tests left out.
func importsOf(t *testing.T, pattern string) map[string][]string {
	t.Helper()
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, pattern).Output()
	require.NoError(t, err)
	all := map[string][]string{}
	for line := range strings.Lines(string(out)) {
		fields := strings.Fields(line)
		all[fields[0]] = fields[1:]
	}
	require.NotEmpty(t, all)
	return all
}
