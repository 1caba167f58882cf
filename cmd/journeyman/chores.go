package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"journeyman/internal/api"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/importing"
	"journeyman/internal/exchange"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

func migrateCommand(cfg *config) *cobra.Command {
	return &cobra.Command{
		Use:   "migrate",
		Short: "Bring the database to the newest version",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if cfg.Database == "" {
				p, err := openPlace(cmd.Context(), cfg, false)
				if err != nil {
					return err
				}
				defer p.Close()
				fmt.Println("The private database is at the newest version.")
				return nil
			}
			n, err := store.Migrate(cmd.Context(), cmp.Or(cfg.Owner, cfg.Database))
			if err == nil {
				fmt.Printf("%d migrations were applied.\n", n)
			}
			return err
		},
	}
}

func auditCommand(cfg *config) *cobra.Command {
	return &cobra.Command{
		Use:   "audit",
		Short: "Add the journal up again and compare it with every count; exit 1 on any difference",
		RunE: func(cmd *cobra.Command, _ []string) error {
			p, err := openPlace(cmd.Context(), cfg, false)
			if err != nil {
				return err
			}
			defer p.Close()
			differences, compared, err := p.Audit(cmd.Context())
			if err != nil {
				return err
			}
			for _, d := range differences {
				fmt.Println(d)
			}
			if len(differences) > 0 {
				fmt.Printf("%d of %d counts differ from the journal.\n", len(differences), compared)
				return exitCode(1)
			}
			fmt.Printf("All %d counts are what the journal adds up to.\n", compared)
			return nil
		},
	}
}

func importCommand(cfg *config) *cobra.Command {
	var login string
	var dry, asJSON bool
	cmd := &cobra.Command{
		Use:   "import FILE…",
		Short: "Import items, stock, customers, inbound and orders from CSV files, all or nothing",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			files := make([]exchange.File, len(args))
			for i, path := range args {
				f, err := os.Open(path)
				if err != nil {
					return fmt.Errorf("%s cannot be read: %w", path, err)
				}
				defer func() { _ = f.Close() }()
				files[i] = exchange.File{Name: filepath.Base(path), Text: f}
			}
			p, err := openPlace(ctx, cfg, false)
			if err != nil {
				return err
			}
			defer p.Close()
			z, err := zone(cfg)
			if err != nil {
				return err
			}
			live := api.NewLive(p.Store, nil)
			d := rooms.Open(p.Store, rooms.Options{Zone: z, Carrier: standin.Carrier{}, Tell: live.Tell})
			who, found, err := d.Admin.PersonByLogin(ctx, login)
			if err != nil {
				return err
			}
			if !found {
				return fmt.Errorf("nobody has the login %q: name somebody with --as, or add one with `journeyman user add`", login)
			}
			call := command.Call{Key: command.NewKey(), Actor: who}
			done := make(chan struct{})
			go showProgress(p.Store, call.Key, done)
			var report importing.ImportReport
			sentence := ""
			if dry {
				report, err = d.Importing.CheckImport(ctx, call, files)
			} else {
				var out command.Outcome
				out, report, err = d.Importing.Import(ctx, call, files)
				sentence = out.Sentence
			}
			close(done)
			fmt.Fprint(os.Stderr, "\r\033[K")
			if err == nil {
				live.Flush(ctx)
			}
			if asJSON {
				if e := json.NewEncoder(os.Stdout).Encode(report); e != nil {
					return e
				}
			} else {
				printReport(report, sentence)
			}
			if report.Faulty > 0 {
				return exitCode(1)
			}
			return err
		},
	}
	cmd.Flags().StringVar(&login, "as", "", "login of the person in whose name it is done")
	cmd.Flags().BoolVar(&dry, "check", false, "only say what would happen")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print the report as JSON")
	_ = cmd.MarkFlagRequired("as")
	return cmd
}

func printReport(r importing.ImportReport, sentence string) {
	for _, f := range r.Files {
		fmt.Printf("%-10s %s: %d rows, %d new, %d changed, %d unchanged", f.Kind, f.File, f.Rows, f.New, f.Changed, f.Unchanged)
		if f.Kept > 0 {
			fmt.Printf(", %d differ and stay as they are here", f.Kept)
		}
		fmt.Println()
	}
	for _, f := range r.Faults {
		fmt.Fprintln(os.Stderr, f.Error())
	}
	for _, f := range r.Shapes {
		if f.Asks != "" {
			fmt.Fprintf(os.Stderr, "%s: what its columns are is not known; say it once in the browser (Import)\n", f.File)
		}
	}
	switch {
	case r.Faulty > 0:
		fmt.Fprintf(os.Stderr, "%d faults: nothing was changed.\n", r.Faulty)
	case sentence != "":
		fmt.Println(sentence)
	}
}

// showProgress draws a bar on standard error while a command runs.
func showProgress(s *store.Store, key string, done <-chan struct{}) {
	if fi, err := os.Stderr.Stat(); err != nil || fi.Mode()&os.ModeCharDevice == 0 {
		return
	}
	tick := time.NewTicker(200 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-done:
			return
		case <-tick.C:
		}
		p, ok, err := s.Read(context.Background()).ProgressOf(key)
		if err != nil || !ok || p.Total == 0 {
			continue
		}
		full := int(30 * p.Done / p.Total)
		fmt.Fprintf(
			os.Stderr, "\r\033[K%-10s [%s%s] %d of %d", p.Step, strings.Repeat("█", full), strings.Repeat("·", 30-full), p.Done, p.Total,
		)
	}
}

func userCommand(cfg *config) *cobra.Command {
	cmd := &cobra.Command{Use: "user", Short: "People who may sign in"}
	var name, role string
	add := &cobra.Command{
		Use:   "add LOGIN",
		Short: "Add a person; the password is read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if fi, err := os.Stdin.Stat(); err == nil && fi.Mode()&os.ModeCharDevice != 0 {
				fmt.Fprint(os.Stderr, "Password (8 to 128 characters): ")
			}
			line, err := bufio.NewReader(os.Stdin).ReadString('\n')
			if err != nil && line == "" {
				return fmt.Errorf("no password on standard input: %w", err)
			}
			p, err := openPlace(cmd.Context(), cfg, false)
			if err != nil {
				return err
			}
			defer p.Close()
			d := rooms.Open(p.Store, rooms.Options{})
			who, err := d.Admin.AddUser(
				cmd.Context(),
				admin.NewUser{Login: args[0], Name: name, Role: command.Role(role), Password: strings.TrimRight(line, "\r\n")},
			)
			if err == nil {
				fmt.Printf("%s may sign in as %s.\n", who.Name, who.Role)
			}
			return err
		},
	}
	add.Flags().StringVar(&name, "name", "", "the person's name")
	add.Flags().StringVar(&role, "role", "", "coordinator, sales, floor or manager")
	_ = add.MarkFlagRequired("name")
	_ = add.MarkFlagRequired("role")
	cmd.AddCommand(add)
	return cmd
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "openapi",
		Short: "Print the description of the API (OpenAPI 3.1)",
		RunE: func(*cobra.Command, []string) error {
			_, err := fmt.Println(string(api.OpenAPI()))
			return err
		},
	}
}
