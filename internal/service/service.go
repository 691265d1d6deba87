// Package service puts a running Kavlo together: the workspace, its mail and lists,
// and the network interface, from settings to an orderly stop.
package service

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"

	"example.org/kavlo/internal/api"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/workspace"
)

// Settings say how a service is run.
type Settings struct {
	Version string
	Dir     string // data folder
	Listen  string // host:port of the API and the console
	Public  string // the console's address as people reach it; "": http://Listen
	Mail    mail.Server
	// SendRate is how many mails a minute may go; 0: as fast as the server takes them.
	SendRate int
	Hosts    []string // names by which the service goes, besides those of Public and Listen
	// ListEnv names the variables of the service's environment that lists may use
	// as secrets; ListFolders the folders whose files they may read.
	ListEnv     []string
	ListFolders []string
	// FileFolders are folders with workbooks that rules may write into and make others of.
	FileFolders []string
	// Trust are files of certificates (PEM) by which servers of lists and mail are known
	// besides those that the system trusts.
	Trust   []string
	Console fs.FS
	Post    api.PostOffice
	Log     *slog.Logger
	Now     func() time.Time
}

// AddressFile is the file of the data folder that tells, while the service
// runs, where it is reached, so that commands on its machine need no address.
const AddressFile = "address"

// Service is a running service.
type Service struct {
	Workspace *workspace.Workspace
	Address   string // http://host:port
	server    *http.Server
	failed    chan error
	dir       string
}

// Start opens the workspace and begins to serve. Stop it with Stop.
func Start(ctx context.Context, s Settings) (*Service, error) {
	listener, err := listenOn(ctx, s.Listen)
	if err != nil {
		return nil, err
	}
	out, err := start(ctx, s, listener)
	if err != nil {
		return nil, errors.Join(err, listener.Close())
	}
	return out, nil
}

// AddressInUse says that something else listens at an address.
type AddressInUse struct{ Address string }

func (e *AddressInUse) Error() string {
	return "another program listens at " + e.Address
}

func listenOn(ctx context.Context, address string) (net.Listener, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", address)
	if err != nil {
		if errors.Is(err, syscall.EADDRINUSE) {
			return nil, &AddressInUse{address}
		}
		return nil, fmt.Errorf("listening on %s: %w", address, err)
	}
	return l, nil
}

func start(ctx context.Context, s Settings, listener net.Listener) (*Service, error) {
	address := "http://" + listener.Addr().String()
	if s.Public == "" {
		s.Public = address
	}
	trust, err := trusted(s.Trust)
	if err != nil {
		return nil, err
	}
	s.Mail.Roots = cmp.Or(s.Mail.Roots, trust)
	reach := &lists.Connectors{Dir: s.Dir, Folders: s.ListFolders, Trust: trust}
	cfg := workspace.Config{Dir: s.Dir, Now: s.Now, Lists: reach, FileFolders: s.FileFolders, Trust: trust, SendRate: s.SendRate, Log: s.Log, Console: strings.TrimRight(s.Public, "/")}
	if s.Mail.Address != "" {
		sender, err := mail.NewSender(s.Mail)
		if err != nil {
			return nil, err
		}
		cfg.Mailer = sender
	}
	d, err := workspace.Open(ctx, cfg)
	if err != nil {
		return nil, err
	}
	reach.AllowedHosts = d.Store().AllowedHosts
	reach.Secret = func(ctx context.Context, name string) (string, error) {
		v, err := d.Store().Secret(ctx, name)
		if errors.Is(err, store.ErrNotFound) {
			if slices.Contains(s.ListEnv, name) {
				return os.Getenv(name), nil
			}
			return "", nil
		}
		return v, err
	}
	out := &Service{Workspace: d, Address: address, failed: make(chan error, 1), dir: s.Dir}
	if err := out.leave(ctx); err != nil {
		if store.Unwritable(err) == "" {
			return nil, errors.Join(err, d.Close())
		}
		d.Log.Error("begun on a disk that takes nothing: what is there can be read, and nothing changed", "err", err)
		go out.leaveLater(ctx)
	}
	d.Serve(ctx)
	out.server = &http.Server{Handler: api.New(d, api.Options{Version: s.Version, Log: s.Log, Console: s.Console, Post: s.Post, Hosts: s.hosts()}), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: idleTime, MaxHeaderBytes: 64 << 10}
	go func() {
		if err := out.server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			out.failed <- err
		}
	}()
	return out, nil
}

// leave leaves the keeper's token and the address in the data folder, for commands
// on this machine.
func (s *Service) leave(ctx context.Context) error {
	_, err := s.Workspace.EnsureKeeper(ctx)
	return errors.Join(err, leaveAddress(s.dir, s.Address))
}

// leaveEvery is how often it is tried where the disk did not take it.
const leaveEvery = 5 * time.Second

func (s *Service) leaveLater(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(leaveEvery):
			if s.leave(ctx) == nil {
				return
			}
		}
	}
}

func leaveAddress(dir, address string) error {
	path, text := filepath.Join(dir, AddressFile), []byte(address+"\n")
	if there, err := os.ReadFile(path); err == nil && bytes.Equal(there, text) {
		return nil // as a kill left it; a full disk would not take it again
	}
	if err := os.WriteFile(path, text, 0o600); err != nil {
		return fmt.Errorf("leaving the address in the data folder: %w", err)
	}
	return nil
}

// hosts gives the names by which the service goes.
func (s *Settings) hosts() []string {
	out := slices.Clone(s.Hosts)
	if u, err := url.Parse(s.Public); err == nil {
		out = append(out, u.Hostname())
	}
	if host, _, err := net.SplitHostPort(s.Listen); err == nil {
		out = append(out, host)
	}
	for i := range out {
		out[i] = strings.ToLower(strings.TrimSuffix(out[i], "."))
	}
	return slices.DeleteFunc(out, func(h string) bool { return h == "" })
}

// idleTime is how long a connection is kept on which nothing is asked.
const idleTime = 2 * time.Minute

// stopTime is how long requests under way may take when the service stops.
const stopTime = 5 * time.Second

// Wait serves until the context ends or serving fails, then stops.
func (s *Service) Wait(ctx context.Context) error {
	var err error
	select {
	case <-ctx.Done():
	case err = <-s.failed:
		err = fmt.Errorf("serving: %w", err)
	}
	return errors.Join(err, s.Stop())
}

// Stop ends requests and closes the workspace.
func (s *Service) Stop() error {
	ctx, cancel := context.WithTimeout(context.Background(), stopTime)
	defer cancel()
	err := s.server.Shutdown(ctx)
	if errors.Is(err, context.DeadlineExceeded) { // live events last until they are cut
		err = s.server.Close()
	}
	_ = os.Remove(filepath.Join(s.dir, AddressFile)) // it may be gone with its folder
	return errors.Join(err, s.Workspace.Close())
}
