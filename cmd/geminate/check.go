package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	guard "geminate/internal/listen"
	"geminate/store"
)

func checkCommand() *cobra.Command {
	var mend bool
	cmd := &cobra.Command{
		Use:   "check",
		Short: "Hold what is kept beside the logs (counts, figures, views, photos) against a full count, in every shop",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			bounded := boundsOf(guard.Handles(), list("GEMINATE_PROXIES"))
			fmt.Printf("Handles this account may open: %d; connections a server would take: %d in all, %d an address.\n",
				guard.Handles(), bounded.Most, bounded.Each)
			return onChain(cmd.Context(), func(chain *store.Chain) error {
				wrong := 0
				err := chain.Each(cmd.Context(), func(code store.Code, st *store.Store) error {
					found, err := st.Check(cmd.Context())
					if err != nil {
						return err
					}
					for _, d := range found {
						fmt.Printf("%s %s %s: kept %q, is %q\n", firstOr(string(code), "(the first)"), d.What, d.Of, d.Kept, d.Is)
					}
					if wrong += len(found); mend && len(found) > 0 {
						return st.Recount(cmd.Context(), found)
					}
					return nil
				})
				switch {
				case err != nil:
					return err
				case wrong == 0:
					fmt.Println("Everything that is kept is what the logs come to.")
				case mend:
					fmt.Printf("%d differences: counted anew.\n", wrong)
				default:
					return badInput{errors.New("there are differences; `geminate check --mend` counts anew")}
				}
				return nil
			})
		},
	}
	cmd.Flags().BoolVar(&mend, "mend", false, "count anew what differs, and take photos out of older logs")
	return cmd
}
