package store

import (
	"context"
	"time"
)

const channel = "journeyman"

// Announce tells every server on the database something, in at most 8,000 bytes.
func (s *Store) Announce(ctx context.Context, payload string) error {
	_, err := s.aside.Exec(ctx, "SELECT pg_notify($1, $2)", channel, payload)
	return err
}

// Listen calls heard for everything announced, until ctx ends. After the
// connection was lost and made again it calls missed, for what may not have been heard.
func (s *Store) Listen(ctx context.Context, heard func(payload string), missed func(error)) {
	for ctx.Err() == nil {
		err := s.listen(ctx, heard)
		if ctx.Err() != nil {
			return
		}
		missed(err)
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}

func (s *Store) listen(ctx context.Context, heard func(string)) error {
	conn, err := s.aside.Acquire(ctx)
	if err != nil {
		return err
	}
	// A connection that listens is not given back: nobody else must find its notices.
	raw := conn.Hijack()
	defer func() { _ = raw.Close(context.WithoutCancel(ctx)) }()
	if _, err := raw.Exec(ctx, "LISTEN "+channel); err != nil {
		return err
	}
	for {
		n, err := raw.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		heard(n.Payload)
	}
}
