// Package strict reads JSON against a shape stated once: it lists every fault with its path, accepts
// nothing in part, and gives the same shape out as a JSON Schema.
package strict

type kind int

const (
	kNumber kind = iota
	kString
	kBool
	kObject
	kList
	kMap // object with free keys
)

// Shape is one value's type, range and, for objects, fields. Make one with the functions below.
type Shape struct {
	kind     kind
	min, max float64 // inclusive; for lists the count
	above    bool    // min is exclusive
	enum     []string
	fields   []Field
	item     *Shape
	// variants chooses extra fields by the value of the "kind" field.
	variants map[string][]Field
}

// Field is one field of an object.
type Field struct {
	name     string
	required bool
	shape    Shape
}

// Num is a number from min to max.
func Num(min, max float64) Shape { return Shape{kind: kNumber, min: min, max: max} }

// Above is a number above min and at most max.
func Above(min, max float64) Shape { return Shape{kind: kNumber, min: min, max: max, above: true} }

// textMost is the longest text a file's field may hold, in bytes: names and ids, not essays.
const textMost = 300

// Text is any text of up to 300 bytes.
func Text() Shape { return Shape{kind: kString, max: textMost} }

// OneOf is one of the texts listed.
func OneOf(v ...string) Shape { return Shape{kind: kString, enum: v} }

// Flag is true or false.
func Flag() Shape { return Shape{kind: kBool} }

// Obj is an object of these fields and no others.
func Obj(f ...Field) Shape { return Shape{kind: kObject, fields: f} }

// List is a list of min to max items.
func List(min, max float64, item Shape) Shape {
	return Shape{kind: kList, min: min, max: max, item: &item}
}

// MapOf is an object with free keys.
func MapOf(item Shape) Shape { return Shape{kind: kMap, item: &item} }

// ByKind is an object whose "kind", the first of the common fields, chooses further fields.
func ByKind(common []Field, variants map[string][]Field) Shape {
	return Shape{kind: kObject, fields: common, variants: variants}
}

// Req is a field that must be there.
func Req(name string, s Shape) Field { return Field{name, true, s} }

// Opt is a field that may be left out.
func Opt(name string, s Shape) Field { return Field{name, false, s} }
