package table

import "ambrosa/core/message"

// What can be wrong with a table, by the names in the API and on the command line.
const (
	PictureMissing   = "picture_missing"
	PictureNear      = "picture_near"
	PictureAmbiguous = "picture_ambiguous"
	PictureUnused    = "picture_unused"
	PictureShared    = "picture_shared"
	MainMissing      = "main_missing"
	MainMany         = "main_many"
	AltMissing       = "alt_missing"
	AltLong          = "alt_long"
	BarcodeDamaged   = "barcode_damaged"
	BarcodeWrong     = "barcode_wrong"
	ZerosLost        = "zeros_lost"
	KeyMissing       = "key_missing"
	KeyTwice         = "key_twice"
	KeyUnknown       = "key_unknown"
	KeyAmbiguous     = "key_ambiguous"
	ParentUnknown    = "parent_unknown"
	ParentChanged    = "parent_changed"
	NumberUnreadable = "number_unreadable"
	NumberNegative   = "number_negative"
	FormulaError     = "formula_error"
	TextLong         = "text_long"
	CellsExtra       = "cells_extra"
	QuoteBroken      = "quote_broken"
	BlankTrimmed     = "blank_trimmed"
	AddressRefused   = "address_refused"
)

// stopping are the kinds that stop a row; key_unknown does where only what is there is changed.
var stopping = map[string]bool{KeyMissing: true, KeyTwice: true, KeyAmbiguous: true, ParentUnknown: true, PictureMissing: true,
	PictureAmbiguous: true, NumberUnreadable: true, FormulaError: true, TextLong: true, QuoteBroken: true, AddressRefused: true,
	PictureNear: true, BarcodeDamaged: true, ZerosLost: true}

// Problem is what is wrong with a table, at a cell where it belongs to one.
type Problem struct {
	Row    int    // as an office program counts; 0 where it belongs to none
	Column int    // the column's place; -1 where it belongs to none
	Header string // of the column
	Value  string // what stands there
	Kind   string
	Stops  bool    // the row does not go in as it is
	Repair *string // what the cell should say instead; nil where nobody knows
	Why    message.Message
}

// longestValue is how much of a cell a problem shows, in bytes.
const longestValue = 2000
