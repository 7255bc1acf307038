package main

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"geminate/brake/job"
	"geminate/server"
	"geminate/store"
)

// shopFlag says of which shop of a chain a command is.
func shopFlag(cmd *cobra.Command, code *string) {
	cmd.Flags().StringVar(code, "shop", "", "code of a further shop of a chain (`geminate shops`); left out, the first")
}

// openShopOf is openShop for one shop of a chain.
func openShopOf(ctx context.Context, dir, code string) (*opened, error) {
	st, err := openShop(ctx, dir)
	if err != nil || code == "" {
		return st, err
	}
	chain := st.Shops()
	of, err := chain.Shop(ctx, store.Code(code))
	if err != nil {
		if errors.Is(err, store.ErrNotFound) {
			err = badInput{fmt.Errorf("%q: %w. `geminate shops` lists them, `geminate shops add %s` makes it", code, store.ErrNoShop, code)}
		}
		return nil, errors.Join(err, st.stop())
	}
	stop := st.stop
	return &opened{of, func() error { chain.Close(); return stop() }, nil}, nil
}

// onChain runs fn with the chain of the shop at hand.
func onChain(ctx context.Context, fn func(*store.Chain) error) error {
	st, err := openShop(ctx, env("GEMINATE_DATA", ".geminate/shop"))
	if err != nil {
		return err
	}
	chain := st.Shops()
	err = fn(chain)
	chain.Close()
	return errors.Join(err, st.stop())
}

func shopsCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use:   "shops",
		Short: "Several shops in one installation: list them, add one, take one out",
		Long: `Several shops in one installation. Each has a database of its own beside the first one's: accounts, vehicles, jobs, shelf,
figures and backups are its own. At sign-in its code is said.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return onChain(cmd.Context(), func(chain *store.Chain) error {
				return chain.Each(cmd.Context(), func(code store.Code, st *store.Store) error {
					set, err := st.Settings(cmd.Context())
					if err != nil {
						return err
					}
					n, err := st.OpenJobs(cmd.Context())
					fmt.Printf("%-20s %-40s %d open\n", firstOr(string(code), "(the first)"), set.Name, n)
					return err
				})
			})
		},
	}
	var name, lead string
	add := &cobra.Command{
		Use:   "add CODE",
		Short: "Add a shop; prints the link by which its lead sets a password",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			code := store.Code(args[0])
			return onChain(cmd.Context(), func(chain *store.Chain) error {
				st, err := chain.Add(cmd.Context(), code)
				if errors.Is(err, store.ErrCode) || errors.Is(err, store.ErrShopHere) {
					return badInput{err}
				}
				if err != nil {
					return err
				}
				if lead == "" { // one that a backup is brought into
					fmt.Printf("Shop %s is there, empty. Bring one in: geminate restore FILE --shop %s\n", code, code)
					return nil
				}
				set := job.DefaultSettings()
				set.Name = name
				if err := set.Check(); err != nil {
					return err
				}
				if err := st.PutSettings(cmd.Context(), set, nil); err != nil {
					return err
				}
				u := &store.User{
					ID:           uuid.NewString(),
					Name:         strings.ToLower(strings.TrimSpace(lead)),
					Display:      lead,
					Role:         job.Lead,
					PasswordHash: "none",
					Units:        "metric",
					Theme:        "day",
					CreatedAt:    time.Now().UTC(),
				}
				if err := st.AddUser(cmd.Context(), u); err != nil {
					return err
				}
				path, err := server.WelcomeLink(cmd.Context(), st, code, u.ID)
				fmt.Printf(
					"Shop %s is there. Its lead sets a password, once, within two days, at this installation's address followed by:\n  %s\n",
					code,
					path,
				)
				return err
			})
		},
	}
	add.Flags().StringVar(&name, "name", "", "name of the shop, as papers carry it")
	add.Flags().StringVar(&lead, "lead", "", "name of its lead's account; left out, the shop is empty for a restore")
	var sure bool
	remove := &cobra.Command{
		Use:   "remove CODE",
		Short: "Take a shop out with all it has; back it up first",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if !sure {
				return badInput{
					fmt.Errorf("this deletes everything shop %s has. Back it up (geminate backup FILE --shop %s), then say --delete",
						args[0], args[0]),
				}
			}
			return onChain(cmd.Context(), func(chain *store.Chain) error {
				err := chain.Remove(cmd.Context(), store.Code(args[0]))
				if errors.Is(err, store.ErrNoShop) {
					return badInput{err}
				}
				return err
			})
		},
	}
	remove.Flags().BoolVar(&sure, "delete", false, "yes, delete it")
	cmd.AddCommand(add, remove)
	return cmd
}

func firstOr(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}
