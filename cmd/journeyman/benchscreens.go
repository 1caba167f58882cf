package main

import (
	"fmt"
	"os"
	"os/exec"

	"github.com/jackc/pgx/v5"
)

// screens serves a big book with 70,000 open lines, then with all of them allocated, and lets a browser measure the lists on it.
func (b *benching) screens() error {
	b.most = 700_000
	url, err := b.listBook()
	if err != nil {
		return err
	}
	if err := b.browse(url, "orders,open"); err != nil {
		return err
	}
	conn, err := pgx.Connect(b.ctx, url)
	if err != nil {
		return err
	}
	err = allocateAll(b.ctx, conn)
	_ = conn.Close(b.ctx)
	if err != nil {
		return err
	}
	return b.browse(url, "release,bare table")
}

// browse lets a browser measure pages on the database at url.
func (b *benching) browse(url, pages string) error {
	s, srv, _, err := b.listServer(url)
	if err != nil {
		return err
	}
	defer s.Close()
	defer srv.Close()
	run := exec.CommandContext(b.ctx, "npx", "--no-install", "playwright", "test", "--config=bench.config.ts")
	run.Dir, run.Stdout, run.Stderr = "e2e", os.Stdout, os.Stderr
	run.Env = append(os.Environ(), "JOURNEYMAN_BENCH_URL="+srv.URL, "JOURNEYMAN_BENCH_PAGES="+pages)
	if err := run.Run(); err != nil {
		return fmt.Errorf("the browser that measures: %w", err)
	}
	return nil
}
