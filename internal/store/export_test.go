package store

// Migrations are the steps of the schema, for tests that go through them one by one.
var Migrations = subdir
