// Gavrik is a web application for views over application records: filtered,
// grouped, totalled, saved and shared.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata" // zones on machines that have no database of them

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	// The first Ctrl-C asks to stop, a second ends at once.
	context.AfterFunc(ctx, stop)
	if err := root().ExecuteContext(ctx); err != nil && !errors.Is(err, context.Canceled) {
		fmt.Fprintln(os.Stderr, "gavrik:", err)
		stop()
		os.Exit(1)
	}
}

func root() *cobra.Command {
	cmd := &cobra.Command{
		Use:           "gavrik",
		Short:         "Views over application records: filter, group, total, save, share",
		SilenceUsage:  true,
		SilenceErrors: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			if err := settle(cmd); err != nil {
				return err
			}
			for _, flag := range openPasswords(cmd) {
				fmt.Fprintf(
					os.Stderr,
					"note: everybody on this machine can read the password in --%s; set %s instead, or write it into a file that --config names\n",
					flag, variableOf(flag),
				)
			}
			return nil
		},
	}
	cmd.PersistentFlags().String("config", "", "file of settings, a line for each: listen = 127.0.0.1:4280")
	cmd.AddCommand(
		demoCommand(), serveCommand(), followCommand(), doctorCommand(), backupCommand(),
		restoreCommand(), importCommand(), describeCommand(), runCommand(), personCommand(), openapiCommand(),
		benchCommand(),
	)
	return cmd
}

// newLog writes to standard error, as JSON if that is asked for.
func newLog(asJSON bool, level slog.Level) *slog.Logger {
	o := &slog.HandlerOptions{Level: level}
	if asJSON {
		return slog.New(slog.NewJSONHandler(os.Stderr, o))
	}
	return slog.New(slog.NewTextHandler(os.Stderr, o))
}
