package api_test

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"testing"

	"journeyman/internal/api"
)

// description is as much of the API's OpenAPI document as the tests walk.
type description struct {
	Paths      map[string]map[string]operation `json:"paths"`
	Components struct {
		Schemas map[string]schema `json:"schemas"`
	} `json:"components"`
}

type operation struct {
	ID         string `json:"operationId"`
	Parameters []struct {
		Name   string `json:"name"`
		In     string `json:"in"`
		Schema schema `json:"schema"`
	} `json:"parameters"`
	Body *struct {
		Content map[string]struct {
			Schema schema `json:"schema"`
		} `json:"content"`
	} `json:"requestBody"`
}

type schema struct {
	Ref        string            `json:"$ref"`
	Type       any               `json:"type"` // a name or a list of names
	Properties map[string]schema `json:"properties"`
	Additional any               `json:"additionalProperties"`
	Required   []string          `json:"required"`
	Items      *schema           `json:"items"`
	Enum       []any             `json:"enum"`
	Format     string            `json:"format"`
	Pattern    string            `json:"pattern"`
	Minimum    *float64          `json:"minimum"`
	Maximum    *float64          `json:"maximum"`
	MinLength  *int              `json:"minLength"`
	MaxLength  *int              `json:"maxLength"`
	MinItems   *int              `json:"minItems"`
	MaxItems   *int              `json:"maxItems"`
}

func (s schema) is(kind string) bool {
	names, ok := s.Type.([]any)
	return s.Type == kind || ok && slices.Contains(names, any(kind))
}

func described(t testing.TB) description {
	t.Helper()
	var d description
	if err := json.Unmarshal(api.OpenAPI(), &d); err != nil {
		t.Fatal(err)
	}
	return d
}

func (d description) resolve(s schema) schema {
	if name, ok := strings.CutPrefix(s.Ref, "#/components/schemas/"); ok {
		return d.Components.Schemas[name]
	}
	return s
}

// unbounded lists what of a schema has no end: numbers without a greatest value, texts without
// a greatest length, lists without a greatest count.
func (d description) unbounded(at string, s schema, found map[string]bool) {
	s = d.resolve(s)
	switch {
	case s.Format == "binary":
	case s.is("integer") || s.is("number"):
		if (s.Minimum == nil || s.Maximum == nil) && len(s.Enum) == 0 {
			found[at+": a number without bounds"] = true
		}
	case s.is("string"):
		if s.MaxLength == nil && len(s.Enum) == 0 && s.Format == "" {
			found[at+": a text without a greatest length"] = true
		}
	case s.is("array"):
		if s.MaxItems == nil {
			found[at+": a list without a greatest count"] = true
		}
		d.unbounded(at+"[]", *s.Items, found)
	case s.is("object"):
		if m, ok := s.Additional.(map[string]any); ok {
			found[at+": keys without a greatest count"] = len(m) == 0
		}
		for name, p := range s.Properties {
			if name != "$schema" {
				d.unbounded(at+"."+name, p, found)
			}
		}
	}
}

func TestWhatComesInHasBounds(t *testing.T) {
	d := described(t)
	found := map[string]bool{}
	for _, methods := range d.Paths {
		for _, op := range methods {
			for _, p := range op.Parameters {
				if p.In != "header" && p.In != "cookie" {
					d.unbounded(op.ID+" "+p.Name, p.Schema, found)
				}
			}
			if op.Body != nil {
				for _, c := range op.Body.Content {
					d.unbounded(op.ID, c.Schema, found)
				}
			}
		}
	}
	for _, x := range slices.Sorted(maps.Keys(found)) {
		t.Error(x)
	}
}
