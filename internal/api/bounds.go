package api

import "github.com/danielgtaylor/huma/v2"

// Bounds of what comes in where a field names none of its own. Numbers end where a browser still
// tells one whole number from the next.
const (
	mostNumber = 1<<53 - 1
	mostText   = 200 // characters
	mostListed = 5_000
)

// bound gives what comes in an end: numbers, texts and lists that say nothing of one. It is called
// when all operations are known; answers are of the server's own making, and need none.
func bound(o *huma.OpenAPI) {
	b := bounding{o.Components.Schemas.Map(), map[*huma.Schema]bool{}}
	for _, path := range o.Paths {
		for _, op := range []*huma.Operation{path.Get, path.Post} {
			if op == nil {
				continue
			}
			for _, p := range op.Parameters {
				b.schema(p.Schema)
			}
			if op.RequestBody != nil {
				for _, c := range op.RequestBody.Content {
					b.schema(c.Schema)
				}
			}
		}
	}
}

type bounding struct {
	named map[string]*huma.Schema
	done  map[*huma.Schema]bool
}

func (b bounding) schema(s *huma.Schema) {
	const prefix = "#/components/schemas/"
	if s != nil && len(s.Ref) > len(prefix) {
		s = b.named[s.Ref[len(prefix):]]
	}
	if s == nil || b.done[s] {
		return
	}
	b.done[s] = true
	switch s.Type {
	case huma.TypeInteger, huma.TypeNumber:
		if s.Minimum == nil {
			s.Minimum = new(float64)
		}
		if s.Maximum == nil {
			most := float64(mostNumber)
			s.Maximum = &most
		}
	case huma.TypeString:
		if s.MaxLength == nil && len(s.Enum) == 0 && s.Format == "" {
			most := mostText
			s.MaxLength = &most
		}
	case huma.TypeArray:
		if s.MaxItems == nil {
			most := mostListed
			s.MaxItems = &most
		}
		b.schema(s.Items)
	case huma.TypeObject:
		for _, p := range s.Properties {
			b.schema(p)
		}
	}
	s.PrecomputeMessages()
}
