package postgres

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
)

// Notices are what servers on one database tell each other, over connections of the pool.
type Notices struct{ Pool *pgxpool.Pool }

const channel = "journeyman"

// Announce tells every server on the database something, in at most 8,000 bytes.
func (n Notices) Announce(ctx context.Context, payload string) error {
	_, err := n.Pool.Exec(ctx, "SELECT pg_notify($1, $2)", channel, payload)
	return err
}

// Listen calls heard for everything announced, until ctx ends. After the
// connection was lost and made again it calls missed, for what may not have been heard.
func (n Notices) Listen(ctx context.Context, heard func(payload string), missed func(error)) {
	for ctx.Err() == nil {
		err := n.listen(ctx, heard)
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

func (n Notices) listen(ctx context.Context, heard func(string)) error {
	conn, err := n.Pool.Acquire(ctx)
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
		x, err := raw.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		heard(x.Payload)
	}
}
