package rooms_test

import (
	"testing"

	"journeyman/internal/dbtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }
