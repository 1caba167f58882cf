// Journeyman: one binary that serves the application and does its chores.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata" // the warehouse's time zone is known on every machine

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"
)

// config is what flags and environment set; flags win.
type config struct {
	Database string `env:"DATABASE_URL"`
	Owner    string `env:"JOURNEYMAN_OWNER_URL"`
	Data     string `env:"JOURNEYMAN_DATA"`
	Addr     string `env:"JOURNEYMAN_ADDR" envDefault:"127.0.0.1:8080"`
	Metrics  string `env:"JOURNEYMAN_METRICS_ADDR" envDefault:"127.0.0.1:9464"`
	Hosts    string `env:"JOURNEYMAN_HOSTS"`
	Proxies  string `env:"JOURNEYMAN_TRUSTED_PROXIES"`
	Log      string `env:"JOURNEYMAN_LOG" envDefault:"info"`
	Zone     string `env:"JOURNEYMAN_ZONE" envDefault:"Europe/London"`
	TLS      string `env:"JOURNEYMAN_TLS" envDefault:"auto"`
	Carrier  string `env:"JOURNEYMAN_CARRIER"`
	Printer  string `env:"JOURNEYMAN_PRINTER"`
}

// exitCode is an error that ends the program with a code of its own and says nothing more.
type exitCode int

func (e exitCode) Error() string { return fmt.Sprintf("exit %d", int(e)) }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := root().ExecuteContext(ctx); err != nil {
		var code exitCode
		if errors.As(err, &code) {
			os.Exit(int(code))
		}
		fmt.Fprintln(os.Stderr, "journeyman:", err)
		os.Exit(1)
	}
}

func root() *cobra.Command {
	var cfg config
	envErr := env.Parse(&cfg)
	cmd := &cobra.Command{
		Use:           "journeyman",
		Short:         "Order fulfillment: every unit of every order line at exactly one station",
		SilenceUsage:  true,
		SilenceErrors: true,
		PersistentPreRunE: func(*cobra.Command, []string) error {
			if envErr != nil {
				return envErr
			}
			var level slog.Level
			if err := level.UnmarshalText([]byte(cfg.Log)); err != nil {
				return fmt.Errorf("--log %s: use debug, info, warn or error", cfg.Log)
			}
			slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level})))
			return nil
		},
	}
	f := cmd.PersistentFlags()
	f.StringVar(
		&cfg.Database, "database", cfg.Database, "PostgreSQL URL (DATABASE_URL); without it a private server on loopback is started",
	)
	f.StringVar(
		&cfg.Owner, "owner", cfg.Owner,
		"PostgreSQL URL of the owner, for migrations, if DATABASE_URL is that of a login of the server's own (JOURNEYMAN_OWNER_URL)",
	)
	f.StringVar(&cfg.Data, "data", cfg.Data, "where the private server keeps its data (JOURNEYMAN_DATA)")
	f.StringVar(&cfg.Log, "log", cfg.Log, "how much to log: debug, info, warn, error (JOURNEYMAN_LOG)")
	f.StringVar(&cfg.Zone, "zone", cfg.Zone, "time zone in which days begin (JOURNEYMAN_ZONE)")
	cmd.AddCommand(
		serveCommand(&cfg), demoCommand(&cfg), carrierCommand(), printerCommand(), migrateCommand(&cfg), importCommand(&cfg), auditCommand(&cfg),
		userCommand(&cfg), openapiCommand(), benchCommand(&cfg), planCommand(), atpCommand(), makeroomCommand(),
	)
	return cmd
}
