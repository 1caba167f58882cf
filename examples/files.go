// Package examples holds sample files.
package examples

import "embed"

// Files are sample files to import.
//
//go:embed *.csv
var Files embed.FS
