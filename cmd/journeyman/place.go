package main

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"journeyman/internal/cluster"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

// place is a migrated database, and the private server behind it if there is one.
type place struct {
	*store.Store
	url     string // as its owner
	cluster *cluster.Cluster
	unwatch context.CancelFunc
}

// openPlace opens the database that cfg names, starting the private server if it
// names none, and brings it to the newest version. fast is for throw-away data.
func openPlace(ctx context.Context, cfg *config, fast bool) (*place, error) {
	p := &place{}
	url := cfg.Database
	if url == "" {
		start, cancel := context.WithTimeout(ctx, 2*time.Minute)
		defer cancel()
		c, err := cluster.Start(start, cluster.Options{Dir: cfg.Data, Fast: fast})
		if err != nil {
			return nil, err
		}
		p.cluster = c
		watch, unwatch := context.WithCancel(context.WithoutCancel(ctx))
		p.unwatch = unwatch
		go c.Watch(watch, slog.Default())
		url = c.URL("journeyman")
		if err := postgres.EnsureDatabase(ctx, url); err != nil {
			return nil, p.failed(err)
		}
	}
	server := url
	if cfg.Owner != "" {
		url = cfg.Owner
	} else if s, err := postgres.ServerURL(url); err == nil {
		server = s
	} else {
		return nil, p.failed(err)
	}
	if _, err := store.Migrate(ctx, url); err != nil {
		return nil, p.failed(err)
	}
	s, err := store.Open(ctx, server)
	if err != nil {
		return nil, p.failed(err)
	}
	p.Store, p.url = s, url
	return p, nil
}

func (p *place) failed(err error) error {
	p.Close()
	return err
}

// Close gives the connections back and stops the private server.
func (p *place) Close() {
	if p.Store != nil {
		p.Store.Close()
	}
	if p.cluster != nil {
		p.unwatch()
		if err := p.cluster.Stop(); err != nil {
			slog.Error("the database could not be stopped", "error", err)
		}
	}
}

func zone(cfg *config) (*time.Location, error) {
	z, err := time.LoadLocation(cfg.Zone)
	if err != nil {
		return nil, fmt.Errorf("--zone %s is not a time zone such as Europe/London", cfg.Zone)
	}
	return z, nil
}
