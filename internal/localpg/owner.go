package localpg

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"syscall"
)

// owner is the unprivileged user the server runs as when root starts it; nil
// means the present user.
type owner struct{ uid, gid int }

// serverOwner looks the user up. PostgreSQL refuses to run as root.
func serverOwner() (*owner, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New(
			"localpg: root may not run PostgreSQL and there is no user postgres; install Debian's package postgresql",
		)
	}
	uid, errU := strconv.Atoi(u.Uid)
	gid, errG := strconv.Atoi(u.Gid)
	if err := errors.Join(errU, errG); err != nil {
		return nil, fmt.Errorf("localpg: user postgres: %w", err)
	}
	return &owner{uid, gid}, nil
}

func (o *owner) credential() *syscall.Credential {
	if o == nil {
		return nil
	}
	return &syscall.Credential{Uid: uint32(o.uid), Gid: uint32(o.gid)}
}

// take gives a file to the owner.
func (o *owner) take(path string) error {
	if o == nil {
		return nil
	}
	return os.Chown(path, o.uid, o.gid)
}

// findBinaries returns the folder of initdb and postgres. Debian keeps them off
// the PATH, one folder for each version; the newest is taken.
func findBinaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb") // the pattern is well formed
	sort.Slice(found, func(i, j int) bool { return version(found[i]) < version(found[j]) })
	if n := len(found); n > 0 {
		return filepath.Dir(found[n-1]), nil
	}
	if p, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(p), nil
	}
	return "", errors.New("localpg: PostgreSQL is not installed; install Debian's package postgresql")
}

func version(initdb string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(initdb)))) // 0 for a name that is none
	return n
}
