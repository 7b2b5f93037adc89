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
	}
	cmd.AddCommand(demoCommand(), serveCommand(), importCommand(), runCommand(), personCommand(), openapiCommand(), benchCommand())
	return cmd
}

func newLog() *slog.Logger { return slog.New(slog.NewTextHandler(os.Stderr, nil)) }
