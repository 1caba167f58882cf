// Package cluster runs a private PostgreSQL server on loopback: for the demo,
// for the tests, and for anyone who gave no DATABASE_URL. It works for root
// (the server then runs as the user postgres) and for an ordinary user.
package cluster

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Cluster is a running server.
type Cluster struct {
	dir  string
	bin  string
	cred *syscall.Credential
	port int
	pass string
	user *os.File // a shared lock, held by everyone who uses the server
	with Options
}

// Options of a cluster. The zero value is a durable one on any free port.
type Options struct {
	Dir      string // where it lives; DefaultDir() if empty
	Fast     bool   // do not wait for the disk: tests only
	Settings []string
}

// DefaultDir is where a private cluster lives when nobody says otherwise: below
// /var/lib for root, below the user's data directory else.
func DefaultDir() string {
	if os.Getuid() == 0 {
		return "/var/lib/journeyman"
	}
	if d := os.Getenv("XDG_DATA_HOME"); d != "" {
		return filepath.Join(d, "journeyman")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return filepath.Join(os.TempDir(), "journeyman-"+strconv.Itoa(os.Getuid()))
	}
	return filepath.Join(home, ".local", "share", "journeyman")
}

// minFree is the least room on the disk with which a server is started, in bytes.
const minFree = 300 << 20

// Start starts the cluster in o.Dir, creating it first if there is none. One
// that runs already is used as it is; the last of its users to call Stop stops it. Every error is a
// sentence that says what to do.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	if o.Dir == "" {
		o.Dir = DefaultDir()
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, err
	}
	// A socket path has at most 107 bytes (sys/un.h).
	if len(dir) > 80 {
		return nil, fmt.Errorf("the path %s is too long for a database socket: choose a shorter one with --data", dir)
	}
	c := &Cluster{dir: dir, with: o}
	if c.bin, err = findBin(); err != nil {
		return nil, err
	}
	if os.Getuid() == 0 {
		if c.cred, err = postgresUser(); err != nil {
			return nil, err
		}
	}
	if err := c.makeDir(); err != nil {
		return nil, err
	}
	var st syscall.Statfs_t
	if err := syscall.Statfs(dir, &st); err == nil && st.Bavail*uint64(st.Bsize) < minFree {
		return nil, fmt.Errorf("the disk that holds %s is nearly full (%d MB left, at least %d are needed): make room, or choose "+
			"another place with --data",
			dir, st.Bavail*uint64(st.Bsize)>>20, minFree>>20)
	}
	if err := c.begin(); err != nil {
		return nil, err
	}
	if err := c.up(ctx, o); err != nil {
		_ = c.user.Close()
		return nil, err
	}
	return c, nil
}

// up creates the cluster and starts it, unless that is done already; one at a time.
func (c *Cluster) up(ctx context.Context, o Options) error {
	turn, err := os.OpenFile(filepath.Join(c.dir, "turn"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	defer func() { _ = turn.Close() }()
	if err := syscall.Flock(int(turn.Fd()), syscall.LOCK_EX); err != nil {
		return err
	}
	if _, err := os.Stat(filepath.Join(c.dir, "data", "PG_VERSION")); errors.Is(err, os.ErrNotExist) {
		if err := c.initdb(ctx, o.Fast); err != nil {
			return err
		}
	}
	pass, err := os.ReadFile(filepath.Join(c.dir, "pw"))
	if err != nil {
		return fmt.Errorf(
			"the database in %s has lost its password file: start afresh with `make demo-reset`, or restore %s/pw: %w", c.dir, c.dir, err,
		)
	}
	c.pass = strings.TrimSpace(string(pass))
	if c.running(ctx) {
		if c.port, err = c.readPort(); err == nil {
			return nil
		}
	}
	return c.start(ctx, o)
}

// begin counts us among those who use the server.
func (c *Cluster) begin() (err error) {
	if c.user, err = os.OpenFile(filepath.Join(c.dir, "users"), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return err
	}
	return syscall.Flock(int(c.user.Fd()), syscall.LOCK_SH)
}

func findBin() (string, error) {
	dirs, _ := filepath.Glob("/usr/lib/postgresql/*/bin")
	slices.SortFunc(dirs, func(a, b string) int { return version(b) - version(a) })
	for _, d := range dirs {
		if _, err := os.Stat(filepath.Join(d, "initdb")); err == nil {
			return d, nil
		}
	}
	if p, err := exec.LookPath("initdb"); err == nil {
		return filepath.Dir(p), nil
	}
	return "", errors.New(
		"PostgreSQL is not installed: run `make tools`, or apt-get install postgresql, or set DATABASE_URL to a server of yours",
	)
}

func version(bin string) int {
	n, _ := strconv.Atoi(filepath.Base(filepath.Dir(bin)))
	return n
}

func postgresUser() (*syscall.Credential, error) {
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, errors.New("PostgreSQL refuses to run as root and there is no user postgres: apt-get install postgresql creates it")
	}
	uid, err1 := strconv.ParseUint(u.Uid, 10, 32)
	gid, err2 := strconv.ParseUint(u.Gid, 10, 32)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, errors.Join(err1, err2)
}

func (c *Cluster) makeDir() error {
	if err := os.MkdirAll(c.dir, 0o700); err != nil {
		return fmt.Errorf("%s cannot be made for the database: choose another place with --data: %w", c.dir, err)
	}
	if c.cred != nil {
		if err := os.Chown(c.dir, int(c.cred.Uid), int(c.cred.Gid)); err != nil {
			return fmt.Errorf("%s cannot be handed to the user postgres: %w", c.dir, err)
		}
	}
	return nil
}

func (c *Cluster) command(ctx context.Context, name string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, filepath.Join(c.bin, name), args...)
	cmd.Dir = "/"
	cmd.Env = []string{"LC_ALL=C.UTF-8", "PATH=/usr/bin:/bin", "TZ=UTC"}
	// A group of its own: ctrl-C at the terminal must not reach the database before we stop it.
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.cred, Setpgid: true}
	return cmd
}

func (c *Cluster) run(ctx context.Context, name string, args ...string) error {
	cmd := c.command(ctx, name, args...)
	var out bytes.Buffer
	cmd.Stderr = &out
	// pg_ctl hands its output to the server it starts; only stderr of the short-lived program is read.
	if name == "pg_ctl" {
		cmd.Stderr = nil
	}
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w %s", name, err, strings.TrimSpace(out.String()))
	}
	return nil
}

func (c *Cluster) initdb(ctx context.Context, fast bool) error {
	secret := make([]byte, 16)
	if _, err := rand.Read(secret); err != nil {
		return err
	}
	pw := filepath.Join(c.dir, "pw")
	if err := os.WriteFile(pw, []byte(hex.EncodeToString(secret)+"\n"), 0o600); err != nil {
		return err
	}
	if c.cred != nil {
		if err := os.Chown(pw, int(c.cred.Uid), int(c.cred.Gid)); err != nil {
			return err
		}
	}
	args := []string{
		"-D", filepath.Join(c.dir, "data"), "-U", "postgres", "-E", "UTF8", "--locale=C.UTF-8", "-A", "scram-sha-256", "--pwfile=" + pw,
	}
	if fast {
		args = append(args, "-N")
	}
	if err := c.run(ctx, "initdb", args...); err != nil {
		_ = os.RemoveAll(filepath.Join(c.dir, "data"))
		return fmt.Errorf("the database in %s could not be created: %w", c.dir, err)
	}
	return nil
}

func (c *Cluster) running(ctx context.Context) bool {
	return c.run(ctx, "pg_ctl", "-D", filepath.Join(c.dir, "data"), "status") == nil
}

// readPort reads line 4 of the server's own postmaster.pid.
func (c *Cluster) readPort() (int, error) {
	b, err := os.ReadFile(filepath.Join(c.dir, "data", "postmaster.pid"))
	if err != nil {
		return 0, err
	}
	lines := strings.Split(string(b), "\n")
	if len(lines) < 4 {
		return 0, errors.New("postmaster.pid is not complete")
	}
	return strconv.Atoi(strings.TrimSpace(lines[3]))
}

func (c *Cluster) start(ctx context.Context, o Options) error {
	for try := range 5 {
		port, err := c.lastPort(), error(nil)
		if port == 0 || try > 0 {
			port, err = freePort()
		}
		if err != nil {
			return err
		}
		settings := []string{
			"-p", strconv.Itoa(port), "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories=" + c.dir,
			"-c", "max_connections=200", "-c", "shared_buffers=256MB", "-c", "max_wal_size=2GB",
		}
		if o.Fast {
			settings = append(settings, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
		}
		for _, s := range o.Settings {
			settings = append(settings, "-c", s)
		}
		err = c.run(ctx, "pg_ctl", "-D", filepath.Join(c.dir, "data"), "-l", filepath.Join(c.dir, "log"), "-w", "-t", "60",
			"-o", strings.Join(settings, " "), "start")
		if err == nil {
			if c.port, err = c.readPort(); err == nil {
				err = os.WriteFile(filepath.Join(c.dir, "port"), []byte(strconv.Itoa(c.port)+"\n"), 0o600)
			}
			return err
		}
		tail, _ := os.ReadFile(filepath.Join(c.dir, "log"))
		if !bytes.Contains(tail[max(0, len(tail)-2000):], []byte("Address already in use")) {
			return fmt.Errorf("the database in %s did not start; its log, %s/log, ends with: %s", c.dir, c.dir, lastLine(tail))
		}
	}
	return errors.New("no free port was found on 127.0.0.1 for the database")
}

// lastPort is the port that the server had last, so that whoever knew it finds it again; 0 if there is none.
func (c *Cluster) lastPort() int {
	b, err := os.ReadFile(filepath.Join(c.dir, "port"))
	if err != nil {
		return 0
	}
	port, err := strconv.Atoi(strings.TrimSpace(string(b)))
	if err != nil || port < 1024 || port > 65535 {
		return 0
	}
	return port
}

// watchEvery is how often it is looked whether the server is there.
const watchEvery = time.Second

// Watch starts the server again whenever it is gone, on the same port, until ctx ends. What is connected to
// it connects again by itself.
func (c *Cluster) Watch(ctx context.Context, log *slog.Logger) {
	for tick := time.NewTicker(watchEvery); ; {
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
		conn, err := net.DialTimeout("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(c.port)), 5*time.Second)
		if err == nil {
			_ = conn.Close()
			continue
		}
		if ctx.Err() != nil {
			continue
		}
		again := *c // whoever asks for the URL meanwhile gets the one that is to be good again
		switch err := again.up(ctx, c.with); {
		case ctx.Err() != nil:
		case err != nil:
			log.Error("the database was gone and could not be started again; it is tried again", "error", err)
		case again.port != c.port:
			log.Error("the database was gone and its port was taken: start Journeyman again", "was", c.port, "is", again.port)
		default:
			log.Warn("the database was gone; it has been started again")
		}
	}
}

func lastLine(b []byte) string {
	lines := strings.Split(strings.TrimSpace(string(b)), "\n")
	return lines[len(lines)-1]
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("no port can be opened on 127.0.0.1: %w", err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// URL is where the database of that name is reached, as the owner.
func (c *Cluster) URL(database string) string {
	return fmt.Sprintf("postgres://postgres:%s@127.0.0.1:%d/%s?sslmode=disable", c.pass, c.port, database)
}

// Bin is the folder of the server's programs, such as pgbench.
func (c *Cluster) Bin() string { return c.bin }

// Stop stops the server and waits until it has, unless somebody else uses it.
func (c *Cluster) Stop() error {
	defer func() { _ = c.user.Close() }()
	if syscall.Flock(int(c.user.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) != nil {
		return nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	return c.run(ctx, "pg_ctl", "-D", filepath.Join(c.dir, "data"), "-m", "fast", "-w", "stop")
}

// Remove stops the server and deletes everything it kept. It refuses while
// somebody else uses the server.
func (c *Cluster) Remove() error {
	if err := c.Stop(); err != nil {
		return err
	}
	if c.running(context.Background()) {
		return fmt.Errorf("the database in %s is in use by another Journeyman: stop that one first", c.dir)
	}
	return os.RemoveAll(c.dir)
}
