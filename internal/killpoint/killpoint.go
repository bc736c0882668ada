// Package killpoint ends the process at a named place as a power cut would, where a test asks for it by the environment
// variable AMBROSA_KILL_AT: a point and how often it is passed before, such as batch.stored:3. Without it, passing costs a
// comparison.
package killpoint

import (
	"os"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
)

// The points, in the order in which work passes them.
const (
	DeliveryClosed = "delivery.closed" // the work is asked for, nothing of it done
	BatchRead      = "batch.read"      // files are read, none stored
	BatchStored    = "batch.stored"    // pictures lie in the vault that no row knows
	BatchCommitted = "batch.committed" // rows and pictures agree
	DeliveryReady  = "delivery.ready"  // ready, the uploads' bytes still there
	OutsideDone    = "outside.done"    // what a subject does outside the database is done, and not in the ledger
	AssetsDoomed   = "assets.doomed"   // pictures are marked, nothing of them is deleted
	BlobDeleted    = "blob.deleted"    // the bytes of one are gone
	BytesDeleted   = "bytes.deleted"   // those of all, and the rows stand
	RenditionsMade = "renditions.made" // what shall be sent lies in the vault, and is not sent
	FileSent       = "file.sent"       // one is sent, and nothing says so
	ChunkWritten   = "chunk.written"   // changes and ledger lines in a transaction that is not committed
	ChunkCommitted = "chunk.committed" // and committed
)

// Points are all of them.
var Points = []string{DeliveryClosed, BatchRead, BatchStored, BatchCommitted, DeliveryReady, ChunkWritten, ChunkCommitted}

var (
	point, count = asked(os.Getenv("AMBROSA_KILL_AT"))
	passed       atomic.Int64
)

func asked(text string) (string, int64) {
	name, times, _ := strings.Cut(text, ":")
	n, err := strconv.ParseInt(times, 10, 64)
	if err != nil {
		n = 1
	}
	return name, n
}

// Pass ends the process here where that was asked for.
func Pass(name string) {
	if name == point && passed.Add(1) == count {
		_ = syscall.Kill(os.Getpid(), syscall.SIGKILL)
		select {} // nothing more happens, also not until the signal is here
	}
}
