// Package symbols reads the bar codes in pictures: EAN, UPC, ITF-14, Code 128, QR and Data Matrix, as large or small and however turned they are. Debian's
// libzxing and libzbar decode; where in a picture they look, how it is set upright for them, and what is believed of what they say, is decided
// here.
package symbols
