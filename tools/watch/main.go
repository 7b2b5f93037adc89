// Watch serves the demo while one edits: the server is built and started anew when a Go file
// changes, and Vite serves the front end and replaces what changes in it. A build that fails
// leaves the server of before running.
package main

import (
	"context"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/fsnotify/fsnotify"
)

// quiet is how long nothing must change before the server is built: an editor writes several
// files at once.
const quiet = 300 * time.Millisecond

const binary = "bin/gavrik-watched"

func main() {
	listen := flag.String("listen", "127.0.0.1:4280", "where the server listens")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := watch(ctx, *listen); err != nil {
		fmt.Fprintln(os.Stderr, "watch:", err)
		os.Exit(1)
	}
}

func watch(ctx context.Context, listen string) error {
	changes, err := fsnotify.NewWatcher()
	if err != nil {
		return err
	}
	defer changes.Close()
	for _, root := range []string{"cmd", "internal"} {
		if err := addFolders(changes, root); err != nil {
			return err
		}
	}
	front := command(ctx, "npx", "vite", "--host", "127.0.0.1")
	front.Dir, front.Env = "web", append(os.Environ(), "GAVRIK_LISTEN="+listen)
	if err := front.Start(); err != nil {
		return err
	}
	defer func() { _ = front.Wait() }() // it ends with the context
	server := &process{ctx: ctx, args: []string{"demo", "--listen", listen}}
	defer server.stop()
	server.renew()
	var due <-chan time.Time
	for {
		select {
		case <-ctx.Done():
			return nil
		case err := <-changes.Errors:
			return err
		case e := <-changes.Events:
			if e.Has(fsnotify.Create) {
				_ = addFolders(changes, e.Name) // a file is no folder
			}
			if ends := filepath.Ext(e.Name); ends == ".go" || ends == ".sql" || ends == ".json" {
				due = time.After(quiet)
			}
		case <-due:
			server.renew()
		}
	}
}

// addFolders watches a folder and those in it.
func addFolders(w *fsnotify.Watcher, root string) error {
	return filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || !d.IsDir() || strings.Contains(path, "testdata") {
			return err
		}
		return w.Add(path)
	})
}

// process is the server at work.
type process struct {
	ctx  context.Context
	args []string
	cmd  *exec.Cmd // nil before the first build that went well
}

// renew builds the server, and puts it in place of the one that runs.
func (p *process) renew() {
	if err := command(p.ctx, "go", "build", "-o", binary, "./cmd/gavrik").Run(); err != nil {
		return // the compiler has said why
	}
	p.stop()
	p.cmd = command(p.ctx, "./"+binary, p.args...)
	if err := p.cmd.Start(); err != nil {
		fmt.Fprintln(os.Stderr, "watch:", err)
		p.cmd = nil
	}
}

func (p *process) stop() {
	if p.cmd == nil {
		return
	}
	_ = p.cmd.Process.Signal(os.Interrupt)
	_ = p.cmd.Wait()
	p.cmd = nil
}

// command runs with this process's output, and is interrupted when the context ends.
func command(ctx context.Context, name string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, name, args...)
	cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
	cmd.Cancel = func() error { return cmd.Process.Signal(os.Interrupt) }
	cmd.WaitDelay = 5 * time.Second
	return cmd
}
