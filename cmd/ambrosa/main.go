// Command ambrosa is the whole product: the server, the demo and the tools.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"syscall"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	root := &cobra.Command{
		Use:           "ambrosa",
		Short:         "Put the right picture on the right product",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	set := &settings{}
	set.flags(root.PersistentFlags())
	root.PersistentPreRunE = func(*cobra.Command, []string) error { return set.check() }
	root.AddCommand(serveCommand(set), demoCommand(set), userCommand(set), catalogueCommand(set), openapiCommand(), resetCommand(set), pairCommand(),
		tableCommand(), driveCommand(), wordingCommand(), pageCommand(), checkPicturesCommand(), tidyCommand(set), renderCommand(), barcodeCommand(), readSymbolsCommand(), publishCommand(set), backupCommand(set),
		restoreCommand(set), versionCommand())
	strict(root)
	err := root.ExecuteContext(ctx)
	if err != nil && strings.HasPrefix(err.Error(), "required flag") { // the library has no type for it
		err = usage("%v", err)
	}
	if err != nil && !errors.Is(err, errSome) && !errors.Is(err, errNone) {
		fmt.Fprintln(os.Stderr, "ambrosa:", err)
	}
	stop()
	os.Exit(code(err))
}
