package policy

import (
	"iter"
	"math/bits"
	"slices"

	"journeyman/core/book"
)

// Sort puts the lines, given by rising index, into the order of the keys. Lines that are equal in all of them stay by order number
// and line number. Cost: see [Sorted].
func Sort(b *book.Book, lines []int32, keys []Key) []int32 {
	out := make([]int32, 0, len(lines))
	for part := range Sorted(b, lines, keys) {
		out = append(out, part...)
	}
	return out
}

// Sorted returns the lines in the order of [Sort], in parts that follow each other; a part is good until the next one is asked for.
//
// All keys together are sorted as one number of as few bits as the book needs: by its upper digit at first, and then each part by
// itself, which is small enough to stay near the processor. Cost: linear in the lines, times the number of digits in which their
// keys differ; keys that need more than 64 bits are sorted as several numbers.
func Sorted(b *book.Book, lines []int32, keys []Key) iter.Seq[[]int32] {
	return func(yield func([]int32) bool) {
		sortAll(b, lines, keys, func(part []int32, _ func(i int) bool) bool { return yield(part) })
	}
}

// Groups is Sorted with each part made of lines that are equal in all keys, and of all of them.
func Groups(b *book.Book, lines []int32, keys []Key) iter.Seq[[]int32] {
	return func(yield func([]int32) bool) {
		sortAll(b, lines, keys, func(part []int32, differs func(i int) bool) bool {
			from := 0
			for i := 1; i <= len(part); i++ {
				if i == len(part) || differs(i) {
					if !yield(part[from:i]) {
						return false
					}
					from = i
				}
			}
			return true
		})
	}
}

// sortAll hands on the lines in order, in parts, with a function that says whether a line of the part differs from the one before it
// in some key. The last line of a part and the first of the next one always do.
func sortAll(b *book.Book, lines []int32, keys []Key, yield func(part []int32, differs func(i int) bool) bool) {
	if len(lines) == 0 {
		return
	}
	words := wordsOf(b, lines, keys)
	if len(words) == 0 {
		words = []word{{}}
	}
	for _, w := range words[:len(words)-1] { // those of the last keys first
		sorted := make([]int32, 0, len(lines))
		sortBy(b, lines, w, func(part []int32, _ func(i int) bool) bool {
			sorted = append(sorted, part...)
			return true
		})
		lines = sorted
	}
	if len(words) == 1 {
		sortBy(b, lines, words[0], yield)
		return
	}
	sorted := make([]int32, 0, len(lines))
	sortBy(b, lines, words[len(words)-1], func(part []int32, _ func(i int) bool) bool {
		sorted = append(sorted, part...)
		return true
	})
	yield(sorted, func(i int) bool { return Between(b, keys, sorted[i-1], sorted[i]) != "" })
}

// value is what lines are compared by under a key: the lower comes first.
func value(l *book.Line, o *book.Order, k Key) int64 {
	switch k {
	case ShipBy:
		return int64(l.ShipBy)
	case Value:
		return -l.Ordered * l.Price
	case Order:
		return int64(l.Order)
	}
	return ofOrder(o, k)
}

// ofOrder is the value of a key that is the same for all lines of an order.
func ofOrder(o *book.Order, k Key) int64 {
	switch k {
	case Tier:
		return int64(o.Tier)
	case Urgency:
		return int64(o.Urgency)
	}
	return o.Entered
}

// bounds are the least and the greatest value that lines have under a key, or less and more than these.
func bounds(b *book.Book, lines []int32, k Key) (least, most int64) {
	switch k {
	case Order:
		return 0, int64(len(b.Orders) - 1)
	case ShipBy, Value:
		first := &b.Lines[lines[0]]
		least = value(first, nil, k)
		most = least
		for _, l := range lines[1:] {
			v := value(&b.Lines[l], nil, k)
			least, most = min(least, v), max(most, v)
		}
		return least, most
	}
	least = ofOrder(&b.Orders[0], k)
	most = least
	for i := range b.Orders {
		v := ofOrder(&b.Orders[i], k)
		least, most = min(least, v), max(most, v)
	}
	return least, most
}

// word is several keys in one number.
type word struct {
	width          int    // in bits
	orders, single []part // the same for all lines of an order, and not
}

// part is a key in a word.
type part struct {
	key   Key
	least int64 // of its values: what stands in the word is how much more there is
	shift int
}

func (p *part) of(l *book.Line, o *book.Order) uint64 {
	return uint64(value(l, o, p.key)-p.least) << p.shift
}

// entries returns lines with their words. Lines of an order mostly follow each other.
func (w *word) entries(b *book.Book, lines []int32) []entry {
	out := make([]entry, len(lines))
	order, ofOrder := int32(-1), uint64(0)
	for i, l := range lines {
		line := &b.Lines[l]
		o := &b.Orders[line.Order]
		if line.Order != order {
			order, ofOrder = line.Order, 0
			for k := range w.orders {
				ofOrder |= w.orders[k].of(line, o)
			}
		}
		key := ofOrder
		for k := range w.single {
			key |= w.single[k].of(line, o)
		}
		out[i] = entry{key, l}
	}
	return out
}

// wordsOf returns the keys as words for some lines, that of the last keys first. Keys in which all lines are equal are left out.
func wordsOf(b *book.Book, lines []int32, keys []Key) []word {
	var out []word
	for _, key := range slices.Backward(keys) {
		least, most := bounds(b, lines, key)
		w := bits.Len64(uint64(most - least))
		if w == 0 {
			continue
		}
		if len(out) == 0 || out[len(out)-1].width+w > 64 {
			out = append(out, word{})
		}
		last := &out[len(out)-1]
		p := part{key, least, last.width}
		if key == ShipBy || key == Value {
			last.single = append(last.single, p)
		} else {
			last.orders = append(last.orders, p)
		}
		last.width += w
	}
	return out
}

// entry is a line and what it is sorted by.
type entry struct {
	key  uint64
	line int32
}

// sorting sorts lines and hands them on in parts.
type sorting struct {
	yield func(part []int32, differs func(i int) bool) bool
	alt   []entry
	out   []int32
}

const (
	digit = 8       // bits by which lines are parted
	few   = 1 << 14 // so many are sorted where they are
)

// sortBy sorts lines by a word, equal ones as they stand, and hands them on in parts.
func sortBy(b *book.Book, lines []int32, w word, yield func(part []int32, differs func(i int) bool) bool) {
	s := &sorting{yield: yield}
	s.part(w.entries(b, lines), w.width)
}

// part sorts lines by keys of so many bits; it says whether to go on.
func (s *sorting) part(a []entry, width int) bool {
	if len(a) <= few || width == 0 {
		return s.sort(a, width)
	}
	shift := max(0, width-digit)
	parts := make([]entry, len(a))
	ends := byDigit(a, parts, shift)
	from := int32(0)
	for _, to := range ends {
		if from == to {
			continue
		}
		part := parts[from:to]
		from = to
		for i := range part {
			part[i].key &= 1<<shift - 1
		}
		if !s.part(part, shift) {
			return false
		}
	}
	return true
}

// sort sorts lines by keys of so many bits, their lower digits first.
func (s *sorting) sort(a []entry, width int) bool {
	differ := uint64(0)
	for i := range a {
		differ |= a[i].key ^ a[0].key
	}
	if differ > 0 {
		if len(s.alt) < len(a) {
			s.alt = make([]entry, few)
		}
		alt := s.alt[:len(a)]
		for shift := 0; shift < width; shift += digit {
			if differ>>shift&(1<<digit-1) != 0 {
				byDigit(a, alt, shift)
				a, alt = alt, a
			}
		}
	}
	s.out = s.out[:0]
	for i := range a {
		s.out = append(s.out, a[i].line)
	}
	return s.yield(s.out, func(i int) bool { return a[i].key != a[i-1].key })
}

// byDigit moves a to b by a digit of the keys; it returns where each digit ends.
func byDigit(a, b []entry, shift int) [1 << digit]int32 {
	var at [1 << digit]int32
	for i := range a {
		at[a[i].key>>shift&(1<<digit-1)]++
	}
	sum := int32(0)
	for i, n := range at {
		at[i] = sum
		sum += n
	}
	for i := range a {
		p := &at[a[i].key>>shift&(1<<digit-1)]
		b[*p] = a[i]
		*p++
	}
	return at
}
