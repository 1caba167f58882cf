package api

import (
	"reflect"
	"sync"

	"journeyman/internal/desk/command"
)

// unseen empties the fields of an answer that are not for the person's role: those tagged
// not:"floor", costs and margins, for the floor.
func unseen(who command.Actor, answer any) {
	if who.Role == command.Floor {
		veil(reflect.ValueOf(answer).Elem())
	}
}

func veil(v reflect.Value) {
	if !veiled(v.Type()) {
		return
	}
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			veil(v.Elem())
		}
	case reflect.Slice, reflect.Array:
		for i := range v.Len() {
			veil(v.Index(i))
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).Tag.Get("not") == string(command.Floor) {
				v.Field(i).SetZero()
			} else {
				veil(v.Field(i))
			}
		}
	}
}

var veiledTypes sync.Map // of reflect.Type to bool

// veiled says whether anything in a type is hidden from the floor, so that large answers of other
// types are not walked.
func veiled(t reflect.Type) bool {
	if known, ok := veiledTypes.Load(t); ok {
		return known.(bool)
	}
	veiledTypes.Store(t, false) // for types that hold themselves
	found := false
	switch t.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Array:
		found = veiled(t.Elem())
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			found = found || f.IsExported() && (f.Tag.Get("not") == string(command.Floor) || veiled(f.Type))
		}
	}
	veiledTypes.Store(t, found)
	return found
}
