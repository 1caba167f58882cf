// Command notices collects the licences of everything that ships with Journeyman: the Go modules that are linked into the program
// and the packages that the front end is built from. It writes them to ui/public/notices.json, which the page Licences shows. With
// -check it writes nothing and says whether the file is fresh.
package main

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"github.com/google/licensecheck"
)

// notice is what is shown of one module or package.
type notice struct {
	Name    string `json:"name"`
	Version string `json:"version"`
	Licence string `json:"licence"` // by its SPDX name
	Text    string `json:"text"`
}

const file = "ui/public/notices.json"

func main() {
	check := flag.Bool("check", false, "say whether the file is fresh")
	flag.Parse()
	if err := run(*check); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(check bool) error {
	all, err := modules()
	if err != nil {
		return err
	}
	packages, err := packages()
	if err != nil {
		return err
	}
	all = append(all, packages...)
	slices.SortFunc(all, func(a, b notice) int { return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Version, b.Version)) })
	text, err := json.MarshalIndent(all, "", " ")
	if err != nil {
		return err
	}
	text = append(text, '\n')
	if !check {
		return os.WriteFile(file, text, 0o644)
	}
	if is, err := os.ReadFile(file); err != nil || !bytes.Equal(is, text) {
		return fmt.Errorf("%s is not fresh: run `make notices`", file)
	}
	return nil
}

// modules are Go itself and the modules of which something is linked into the program.
func modules() ([]notice, error) {
	goroot, err := output("go", "env", "GOROOT")
	if err != nil {
		return nil, err
	}
	language, err := licenceOf(strings.TrimSpace(goroot))
	if err != nil {
		return nil, err
	}
	language.Name, language.Version = "Go, the standard library", ""
	out := []notice{language}
	listed, err := output(
		"go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}} {{.Dir}}{{end}}{{end}}", "./cmd/journeyman",
	)
	if err != nil {
		return nil, err
	}
	seen := map[string]bool{}
	for line := range strings.Lines(listed) {
		f := strings.Fields(line)
		if len(f) != 3 || seen[f[0]] {
			continue
		}
		seen[f[0]] = true
		n, err := licenceOf(f[2])
		if err != nil {
			return nil, err
		}
		n.Name, n.Version = f[0], f[1]
		out = append(out, n)
	}
	return out, nil
}

// packages are those that the front end needs when it runs, and Tailwind and daisyUI, whose styles are part of it.
func packages() ([]notice, error) {
	text, err := os.ReadFile("ui/package-lock.json")
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License string
			Dev, Peer        bool
		}
	}
	if err := json.Unmarshal(text, &lock); err != nil {
		return nil, err
	}
	var out []notice
	for path, p := range lock.Packages {
		name, found := strings.CutPrefix(path, "node_modules/")
		if !found || (p.Dev || strings.HasPrefix(name, "@types/")) && name != "tailwindcss" && name != "daisyui" {
			continue
		}
		n, err := licenceOf(filepath.Join("ui", path))
		if errors.Is(err, errNone) && p.License != "" {
			n, err = notice{Text: "Published under the licence " + p.License + ", whose text is not part of the package."}, nil
		}
		if err != nil {
			return nil, err
		}
		n.Name, n.Version, n.Licence = name, p.Version, cmp.Or(p.License, n.Licence)
		out = append(out, n)
	}
	return out, nil
}

var named = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice)([.-].*)?$`)

var errNone = errors.New("no licence is found, and what has none cannot ship")

// licenceOf reads the licence that lies in a folder, and whatever notice it asks to keep.
func licenceOf(dir string) (notice, error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return notice{}, err
	}
	var texts []string
	n := notice{}
	for _, e := range entries {
		if e.IsDir() || !named.MatchString(e.Name()) {
			continue
		}
		text, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return notice{}, err
		}
		texts = append(texts, strings.TrimSpace(strings.ReplaceAll(string(text), "\r\n", "\n")))
		if found := licensecheck.Scan(text); n.Licence == "" && len(found.Match) > 0 {
			n.Licence = found.Match[0].ID
		}
	}
	if len(texts) == 0 {
		return notice{}, fmt.Errorf("%s: %w", dir, errNone)
	}
	n.Text = strings.Join(texts, "\n\n")
	return n, nil
}

func output(name string, args ...string) (string, error) {
	out, err := exec.Command(name, args...).Output()
	if err != nil {
		return "", fmt.Errorf("%s %s: %w", name, strings.Join(args, " "), err)
	}
	return string(out), nil
}
