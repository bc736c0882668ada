// Package pairing decides which picture belongs to which owner: names × owners → claims with grade and
// evidence. It is pure: the same names and owners give the same claims, in the order of the names.
//
// A delivery is read once into a Study: every key met in every name, found by hashes of runs of tokens (index.go, table.go,
// met.go; over folders folders.go). Before a key counts, core/names says what kind of token it stands in: a date, a counter, a
// size. company.go finds the second product or the range that is named with it, kin.go how the catalogue's keys go on, so that a
// sister that is not sold is not taken for a number. Weighing a study by a ladder (judge.go) needs no new reading.
//
// Names without a key are searched among the keys (weak.go). For slips of the finger, each way to make one or two is a
// rearrangement of letters, and all names and keys are rearranged so and matched by hash, one way at a time, so that what is
// searched stays near (slips.go, shelf.go); for parts and eaten zeros by hashes of their own (search.go); for titles by counting,
// word by word, how much of each owner's title stands in a name (words.go).
//
// What a delivery does as a whole is inferred from what was met (habits.go). What is said of a name is made when it is asked for
// (weighed.go). Ties are broken by the owners' ids, never by the order in which they come. Time grows with keys and names, not
// with their product.
package pairing
