package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"geminate/mariadb"
	"geminate/store"
)

// openShop opens the shop's database for a command beside a running server as well as without one.
func openShop(ctx context.Context, dir string) (*opened, error) {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if os.Getenv("GEMINATE_DSN") == "" {
		if dsn, running := mariadb.Attach(abs); running {
			st, err := store.Open(ctx, dsn)
			if err != nil {
				return nil, err
			}
			if err := outside(ctx, st); err != nil {
				return nil, errors.Join(err, st.Close())
			}
			return &opened{Store: st, stop: st.Close}, nil
		}
	}
	return openStore(ctx, dir, slog.New(slog.DiscardHandler))
}

func backupCommand() *cobra.Command {
	var code string
	cmd := &cobra.Command{
		Use:   "backup FILE",
		Short: "Write everything the shop has into one archive (zip of JSON lines), while it works or not",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			st, err := openShopOf(cmd.Context(), env("GEMINATE_DATA", ".geminate/shop"), code)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, st.stop()) }()
			// Beside the name and moved there when whole: a backup cut short never looks like one.
			part := args[0] + ".part"
			f, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
			if err != nil {
				return badInput{err}
			}
			m, err := st.Backup(cmd.Context(), f)
			if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
				return errors.Join(err, os.Remove(part))
			}
			if err := os.Rename(part, args[0]); err != nil {
				return err
			}
			fmt.Printf("%s: %d jobs, %d events, %d accounts, %d units, %d photos\n", args[0], m.Rows["jobs"], m.Rows["log"],
				m.Rows["users"], m.Rows["units"], m.Rows["pictures"])
			if m.LostPictures > 0 {
				fmt.Printf("%d photos that the jobs tell of are nowhere: `geminate check` names them\n", m.LostPictures)
			}
			return nil
		},
	}
	shopFlag(cmd, &code)
	return cmd
}

func restoreCommand() *cobra.Command {
	var code string
	cmd := &cobra.Command{Use: "restore FILE", Short: "Bring a backup back into an empty shop", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			f, err := os.Open(args[0])
			if err != nil {
				return badInput{err}
			}
			defer func() { err = errors.Join(err, f.Close()) }()
			st, err := openShopOf(cmd.Context(), env("GEMINATE_DATA", ".geminate/shop"), code)
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, st.stop()) }()
			info, err := f.Stat()
			if err != nil {
				return err
			}
			counts, err := st.Restore(cmd.Context(), f, info.Size())
			if err != nil {
				return badInput{err}
			}
			fmt.Printf("%s: %d jobs, %d events, %d accounts, %d units are back\n", args[0], counts["jobs"], counts["log"],
				counts["users"], counts["units"])
			return nil
		}}
	shopFlag(cmd, &code)
	return cmd
}
