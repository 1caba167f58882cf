package postgres

import (
	"context"
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
)

// Unavailable says whether err means that the database does not answer, or not now.
func Unavailable(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return strings.HasPrefix(pg.Code, "57P") || strings.HasPrefix(pg.Code, "53") || strings.HasPrefix(pg.Code, "08")
	}
	var connect *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, context.DeadlineExceeded) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) ||
		errors.Is(err, driver.ErrBadConn) || pgconn.SafeToRetry(err)
}

// TookTooLong says whether the database ended what took too long, or waited too long for what somebody else held.
func TookTooLong(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "57014" || pg.Code == "55P03")
}

// TooGreat says whether a number went beyond what the database counts.
func TooGreat(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "22003"
}

// Check is the name of the database constraint that err reports, or "".
func Check(err error) string {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && strings.HasPrefix(pg.Code, "23") {
		return pg.ConstraintName
	}
	return ""
}
