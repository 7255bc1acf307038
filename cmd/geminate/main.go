// Command geminate is the whole of Geminate: the web server, its demo, and the core from the
// command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"geminate/brake/strict"
	"geminate/brake/system"
	"geminate/words"
)

func main() {
	if err := rootCommand().ExecuteContext(context.Background()); err != nil {
		fail(err)
	}
}

// rootCommand holds every command.
func rootCommand() *cobra.Command {
	root := &cobra.Command{
		Use: "geminate", Short: "A working companion for brake jobs, with a computed twin of the system on the lift",
		SilenceUsage: true, SilenceErrors: true,
	}
	root.AddCommand(demoCommand(), serveCommand(), accountCommand(), shopsCommand(), checkCommand(), loadCommand(),
		instrumentsCommand(), licencesCommand(), backupCommand(), restoreCommand(), twinCommand(), diagnoseCommand(),
		trialCommand(), matchCommand(), counterCommand(), pushrodCommand(), benchCommand(), bleedCommand(), pedalCommand(),
		planCommand(), verifyCommand(), standCommand(), walkCommand(), proveCommand(), ledgerCommand(), traceCommand(),
		photoCommand(), motionCommand(), patternCommand(), schemaCommand(), openapiCommand())
	return root
}

// fail prints what was wrong with an input one fault a line and exits 2; anything else exits 1.
func fail(err error) {
	var faults system.Faults
	var refused *strict.Refused
	if errors.As(err, &refused) {
		faults = refused.At("$")
	}
	if len(faults) > 0 || errors.As(err, &faults) {
		for _, f := range faults {
			fmt.Fprintln(os.Stderr, words.Fault(f))
		}
		os.Exit(2)
	}
	fmt.Fprintln(os.Stderr, "geminate:", err)
	var bad badInput
	if errors.As(err, &bad) {
		os.Exit(2)
	}
	os.Exit(1)
}

// badInput marks an error of what was given, as against one of the machine.
type badInput struct{ error }

func (b badInput) Unwrap() error { return b.error }
