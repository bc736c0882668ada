package gather

import (
	"errors"
	"syscall"

	"ambrosa/core/message"
)

// ErrNoRoom is returned where going on would use the room on the disk that is kept free.
var ErrNoRoom = errors.New("the server's disk is nearly full")

// Room returns ErrNoRoom with the figures where the reserve of free disk is touched.
func (g *Gatherer) Room() error { return g.roomFor(0) }

// roomFor is Room once so many bytes more will have come. Where the disk doesn't say, there is room.
func (g *Gatherer) roomFor(bytes int64) error {
	var s syscall.Statfs_t
	if err := syscall.Statfs(g.Folder, &s); err != nil {
		return nil
	}
	free := int64(s.Bavail) * s.Bsize
	if free-bytes >= g.Limits.Reserve {
		return nil
	}
	if bytes > 0 && free >= g.Limits.Reserve {
		return &message.Error{Message: message.New("no_room_for", "free", free, "more", bytes, "kept", g.Limits.Reserve), Of: ErrNoRoom}
	}
	return &message.Error{Message: message.New("no_room", "free", free, "kept", g.Limits.Reserve), Of: ErrNoRoom}
}
