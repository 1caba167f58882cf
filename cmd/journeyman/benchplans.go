package main

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
)

// explain writes how the database answers each of the lists: of each page the statements that take long, with what they read, as
// EXPLAIN (ANALYZE, BUFFERS) says it. The database's own module explains every statement while it runs.
func (b *benching) explain(url string, pages []string) error {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return err
	}
	conn, err := pgx.ConnectConfig(b.ctx, cfg)
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(b.ctx) }()
	database := pgx.Identifier{cfg.Database}.Sanitize()
	for name, value := range map[string]string{
		"session_preload_libraries": "auto_explain", "auto_explain.log_min_duration": "0", "auto_explain.log_analyze": "on",
		"auto_explain.log_buffers": "on", "auto_explain.log_timing": "off",
	} {
		if _, err := conn.Exec(b.ctx, fmt.Sprintf("ALTER DATABASE %s SET %s = '%s'", database, name, value)); err != nil {
			return err
		}
		defer func() { _, _ = conn.Exec(b.ctx, fmt.Sprintf("ALTER DATABASE %s RESET %s", database, name)) }()
	}
	var directory string
	if err := conn.QueryRow(b.ctx, "SHOW data_directory").Scan(&directory); err != nil {
		return err
	}
	log := filepath.Join(filepath.Dir(directory), "log")
	s, srv, c, err := b.listServer(url)
	if err != nil {
		return err
	}
	defer s.Close()
	defer srv.Close()
	files := map[string]string{}
	seen := map[string]bool{}
	for _, page := range pages {
		var from int64
		for range 3 { // read into memory, prepared, and then as it is every day
			info, err := os.Stat(log)
			if err != nil {
				return err
			}
			from = info.Size()
			if _, err := readPage(c, srv.URL+page); err != nil {
				return err
			}
		}
		text, err := os.ReadFile(log)
		if err != nil {
			return err
		}
		name := strings.FieldsFunc(strings.TrimPrefix(page, "/api/"), func(r rune) bool { return r == '?' || r == '/' })[0]
		files[name] += fmt.Sprintf("GET %s\n", page)
		for _, p := range longest(string(text[from:])) {
			if seen[p.query] {
				files[name] += fmt.Sprintf("  %.1f ms for a statement that is explained above\n\n", p.ms)
				continue
			}
			seen[p.query] = true
			files[name] += fmt.Sprintf("  %.1f ms\n%s\n", p.ms, p.text)
		}
	}
	if err := os.MkdirAll(b.plans, 0o755); err != nil {
		return err
	}
	for name, text := range files {
		if err := os.WriteFile(filepath.Join(b.plans, name+".txt"), []byte(text), 0o644); err != nil {
			return err
		}
	}
	return nil
}

// explained is a statement with its plan.
type explained struct {
	ms          float64
	query, text string
}

var (
	planBegins = regexp.MustCompile(`(?m)^.*LOG:  duration: ([0-9.]+) ms  plan:$`)
	blanks     = regexp.MustCompile(`\s+`)
)

// longest are the statements in the database's log that took two milliseconds or more, and in any case the longest, in the order in which
// they came.
func longest(log string) (out []explained) {
	begins := planBegins.FindAllStringSubmatchIndex(log, -1)
	for i, at := range begins {
		end := len(log)
		if i+1 < len(begins) {
			end = begins[i+1][0]
		}
		var text strings.Builder
		for _, line := range strings.Split(strings.TrimSpace(log[at[1]:end]), "\n") {
			if !strings.HasPrefix(line, "\t") {
				if !strings.HasPrefix(line, "Query Text:") {
					break // another entry of the log
				}
			}
			text.WriteString("  " + strings.TrimRight(strings.ReplaceAll(strings.TrimPrefix(line, "\t"), "\t", "  "), " ") + "\n")
		}
		p := explained{text: text.String()}
		p.ms, _ = strconv.ParseFloat(log[at[2]:at[3]], 64)
		p.query, _, _ = strings.Cut(blanks.ReplaceAllString(p.text, " "), "(cost=")
		out = append(out, p)
	}
	if len(out) == 0 {
		return nil
	}
	most := slices.MaxFunc(out, func(a, b explained) int { return int(a.ms*1000) - int(b.ms*1000) }).ms
	return slices.DeleteFunc(out, func(p explained) bool { return p.ms < 2 && p.ms < most })
}
