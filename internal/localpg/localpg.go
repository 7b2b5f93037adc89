// Package localpg runs a private PostgreSQL server on loopback, for the demo and
// the tests. It belongs to one program: it starts with it, stops with it, and
// after a kill is recovered by the next start.
package localpg

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// Options says where a server lives.
type Options struct {
	// Dir holds the data and the log. It is made if it is not there, and must be
	// reachable for the server's user.
	Dir string
	// Volatile gives up safety against power loss for speed: for tests.
	Volatile bool
	// Settings are further server settings, as name=value.
	Settings []string
	// StandbyOf makes a new server a standby of a running one, from which it copies all that is there.
	StandbyOf *Server
}

// Server is a running PostgreSQL.
type Server struct {
	dir      string
	port     int
	password string
	owner    *owner
	lock     *os.File
	pid      int
	exited   chan error
}

const startTimeout = 60 * time.Second

// DefaultDir is where a named server's data is kept between runs.
func DefaultDir(name string) (string, error) {
	if os.Geteuid() == 0 {
		return filepath.Join("/var/lib/gavrik", name), nil
	}
	if home := os.Getenv("XDG_DATA_HOME"); home != "" {
		return filepath.Join(home, "gavrik", name), nil
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "", fmt.Errorf("localpg: no place for data: %w; name one with --data", err)
	}
	return filepath.Join(home, ".local/share/gavrik", name), nil
}

// Start makes the data directory if need be and starts the server.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := findBinaries()
	if err != nil {
		return nil, err
	}
	s := &Server{dir: o.Dir, exited: make(chan error, 1)}
	if s.owner, err = serverOwner(); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(o.Dir, 0o711); err != nil {
		return nil, fmt.Errorf("localpg: %w", err)
	}
	if err := s.takeLock(); err != nil {
		return nil, err
	}
	if err := s.start(ctx, bin, o); err != nil {
		_ = s.lock.Close()
		return nil, err
	}
	return s, nil
}

func (s *Server) start(ctx context.Context, bin string, o Options) error {
	if err := s.stopOrphan(); err != nil {
		return err
	}
	if err := s.initialize(ctx, bin, o.StandbyOf); err != nil {
		return err
	}
	var err error
	// The port is free when it is looked up and may be gone a moment later.
	for range 3 {
		if s.port, err = freePort(); err != nil {
			return err
		}
		if err = s.launch(bin, o); err != nil {
			return err
		}
		if err = s.waitReady(ctx); err == nil {
			return nil
		}
		_ = s.signalAndWait()
	}
	return fmt.Errorf("localpg: the server does not start: %w; its log is %s", err, s.logFile())
}

// URL is the address of a database, with the superuser's password in it.
func (s *Server) URL(database string) string {
	u := url.URL{
		Scheme: "postgres", User: url.UserPassword("postgres", s.password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port)), Path: "/" + database,
		RawQuery: "sslmode=disable",
	}
	return u.String()
}

// Stop ends the server cleanly and waits for it.
func (s *Server) Stop() error {
	defer s.lock.Close()
	return s.signalAndWait()
}

func (s *Server) data() string    { return filepath.Join(s.dir, "data") }
func (s *Server) logFile() string { return filepath.Join(s.dir, "server.log") }

// takeLock keeps two programs from using one data directory. The system lets go
// of it when the program ends, however it ends.
func (s *Server) takeLock() error {
	f, err := os.OpenFile(filepath.Join(s.dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		_ = f.Close()
		return fmt.Errorf(
			"localpg: another gavrik is using %s; stop it, or choose another place with --data", s.dir,
		)
	}
	s.lock = f
	return nil
}

// initialize makes a new cluster, under another name until it is whole.
func (s *Server) initialize(ctx context.Context, bin string, primary *Server) error {
	secret := filepath.Join(s.dir, "password")
	if known, err := os.ReadFile(secret); err == nil {
		if _, err := os.Stat(filepath.Join(s.data(), "PG_VERSION")); err == nil {
			s.password = string(known)
			return nil
		}
	}
	fresh := filepath.Join(s.dir, "data.new")
	if err := errors.Join(os.RemoveAll(fresh), os.Mkdir(fresh, 0o700), s.owner.take(fresh)); err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	if primary != nil {
		s.password = primary.password
		return s.adopt(
			secret, fresh,
			s.run(
				ctx, bin, "pg_basebackup", "-D", fresh, "-d", primary.URL("postgres"), "-R", "-c", "fast", "--no-sync",
			),
		)
	}
	s.password = rand.Text()
	given := filepath.Join(s.dir, "password.new")
	if err := errors.Join(os.WriteFile(given, []byte(s.password), 0o600), s.owner.take(given)); err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	defer os.Remove(given)
	return s.adopt(secret, fresh, s.run(ctx, bin, "initdb", "-D", fresh, "-U", "postgres", "--no-sync",
		"--auth=scram-sha-256", "--pwfile="+given, "--encoding=UTF8", "--locale=C.UTF-8"))
}

// run runs one of PostgreSQL's programs as the server's user.
func (s *Server) run(ctx context.Context, bin, name string, args ...string) error {
	cmd := exec.CommandContext(ctx, filepath.Join(bin, name), args...)
	cmd.Dir, cmd.SysProcAttr = "/", &syscall.SysProcAttr{Credential: s.owner.credential()}
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("localpg: %s: %w\n%s", name, err, out)
	}
	return nil
}

// adopt takes a new cluster over, once it is whole.
func (s *Server) adopt(secret, fresh string, err error) error {
	if err != nil {
		return err
	}
	if err := errors.Join(os.RemoveAll(s.data()), os.Rename(fresh, s.data())); err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	if err := os.WriteFile(secret, []byte(s.password), 0o600); err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	return nil
}

func (s *Server) launch(bin string, o Options) error {
	log, err := os.OpenFile(s.logFile(), os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	defer log.Close()
	settings := []string{
		"listen_addresses=127.0.0.1", "port=" + strconv.Itoa(s.port), "unix_socket_directories=",
		"shared_buffers=256MB", "work_mem=64MB", "max_wal_size=2GB", "logging_collector=off",
		// Changes are followed as they are committed.
		"wal_level=logical", "max_replication_slots=40", "max_wal_senders=40",
	}
	if o.Volatile {
		settings = append(settings, "fsync=off", "synchronous_commit=off", "full_page_writes=off")
	}
	args := []string{"-D", s.data()}
	for _, setting := range append(settings, o.Settings...) {
		args = append(args, "-c", setting)
	}
	cmd := exec.Command(filepath.Join(bin, "postgres"), args...)
	cmd.Dir, cmd.Stdout, cmd.Stderr = "/", log, log
	cmd.SysProcAttr = &syscall.SysProcAttr{
		Credential: s.owner.credential(),
		// In a group of its own, Ctrl-C at the terminal does not reach the server
		// before the program has stopped using it.
		Setpgid:   true,
		Pdeathsig: syscall.SIGINT,
	}
	started := make(chan error)
	go func() {
		// Pdeathsig is sent when the thread that started the child ends.
		runtime.LockOSThread()
		defer runtime.UnlockOSThread()
		err := cmd.Start()
		if err == nil {
			s.pid = cmd.Process.Pid
		}
		started <- err
		if err == nil {
			s.exited <- cmd.Wait()
		}
	}()
	if err := <-started; err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	return nil
}

func (s *Server) waitReady(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, startTimeout)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, s.URL("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("not ready after %s: %w", startTimeout, err)
		case failed := <-s.exited:
			s.exited <- failed // for signalAndWait
			return fmt.Errorf("it ended at once: %v", failed)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// signalAndWait asks for a fast shutdown: sessions are cut, data is written.
func (s *Server) signalAndWait() error {
	if s.pid == 0 {
		return nil
	}
	_ = syscall.Kill(s.pid, syscall.SIGINT)
	select {
	case <-s.exited:
		s.pid = 0
		return nil
	case <-time.After(startTimeout):
		return fmt.Errorf("localpg: the server (process %d) does not stop", s.pid)
	}
}

// stopOrphan ends a server that outlived a killed program. The lock is held, so
// no living program uses it.
func (s *Server) stopOrphan() error {
	text, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		return nil // none runs
	}
	first, _, _ := strings.Cut(string(text), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil || !runsIn(pid, s.data()) {
		return nil // a stale file, which the server itself clears away
	}
	_ = syscall.Kill(pid, syscall.SIGINT)
	for deadline := time.Now().Add(startTimeout); time.Now().Before(deadline); time.Sleep(
		50 * time.Millisecond,
	) {
		if !runsIn(pid, s.data()) {
			return nil
		}
	}
	return fmt.Errorf("localpg: an earlier server (process %d) does not stop; end it and start again", pid)
}

// runsIn says whether a process is a PostgreSQL server of this data directory.
func runsIn(pid int, data string) bool {
	line, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && strings.Contains(string(line), data)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("localpg: no free port: %w", err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
