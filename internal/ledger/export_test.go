package ledger

// ChunkLines is how many lines one transaction makes.
const ChunkLines = chunkLines

// Chunk makes the next of a run's chunks.
var Chunk = (*Ledger).chunk
