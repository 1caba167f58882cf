package makeroom

// mostWork is how many steps are taken at most: whatever the book, an answer is there within seconds, and the same one each time.
const mostWork = 600_000_000

// oftenEnough is after how many steps it is asked whether to stop: some tenths of a millisecond.
const oftenEnough = 50_000

// meter counts the steps of an answer and says when there have been enough.
type meter struct {
	stop       func() bool // nil: never
	work, next int64
	ended      bool // no further step is taken
	cut        bool // because stop said so
}

// spend counts steps that are about to be taken, and says whether they are not to be taken any more.
func (m *meter) spend(steps int) bool {
	if m.ended {
		return true
	}
	m.work += int64(steps)
	switch {
	case m.work > mostWork:
		m.ended = true
	case m.stop != nil && m.work >= m.next:
		m.next = m.work + oftenEnough
		m.cut = m.stop()
		m.ended = m.cut
	}
	return m.ended
}
