// Command ambrosa is the whole product: the server, the demo and the tools.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "ambrosa",
		Short:         "Put the right picture on the right product",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	set := &settings{}
	set.flags(root.PersistentFlags())
	root.AddCommand(serveCommand(set), demoCommand(set), userCommand(set), catalogueCommand(set), openapiCommand(), resetCommand(set), pairCommand())
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "ambrosa:", err)
		stop()
		if errors.Is(err, errUnreadable) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}
