package symbols

import (
	"bufio"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"sync"
	"time"

	"ambrosa/core/symbol"
)

// Command is the argument with which this program reads for another: see Serve.
const Command = "read-symbols"

var (
	// ErrReader is returned where the process that reads died of a picture, or took too long for it.
	ErrReader = errors.New("no codes can be read in this picture")
	// errSize is returned for a picture that the process is not asked to read.
	errSize = errors.New("a picture has no pixels, or too many")
)

const (
	// longest is how long a picture may take.
	longest = 30 * time.Second
	// mostPixels is how many pixels of a picture are read.
	mostPixels = 64 << 20
)

// Reader reads in processes of its own, which may die of a hostile picture: the libraries are of C++. Several may read at once, each in its own
// process.
type Reader struct {
	mu   sync.Mutex
	idle []*child
}

// child is a process that reads.
type child struct {
	cmd  *exec.Cmd
	to   io.WriteCloser
	from *bufio.Reader
}

// Read reads the bar codes of a grey picture of eight bits, line by line. Errors: ErrReader, ctx's, and those of starting a process.
func (r *Reader) Read(ctx context.Context, levels []byte, width, height int) ([]symbol.Symbol, error) {
	c, err := r.take()
	if err != nil {
		return nil, err
	}
	limit, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	over := context.AfterFunc(limit, func() { _ = c.cmd.Process.Kill() })
	some, err := c.ask(levels, width, height)
	if !over() || err != nil {
		c.end()
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, errors.Join(ErrReader, err)
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.idle = append(r.idle, c)
	return some, nil
}

// Close ends the processes that wait.
func (r *Reader) Close() {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, c := range r.idle {
		c.end()
	}
	r.idle = nil
}

func (r *Reader) take() (*child, error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if n := len(r.idle); n > 0 {
		c := r.idle[n-1]
		r.idle = r.idle[:n-1]
		return c, nil
	}
	program, err := os.Executable()
	if err != nil {
		return nil, err
	}
	c := &child{cmd: exec.Command(program, Command)}
	c.cmd.Env = []string{"GOMAXPROCS=1"} // it needs nothing of ours, and knows no secret
	if c.to, err = c.cmd.StdinPipe(); err != nil {
		return nil, err
	}
	from, err := c.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	c.from = bufio.NewReader(from)
	return c, c.cmd.Start()
}

func (c *child) ask(levels []byte, width, height int) (some []symbol.Symbol, err error) {
	if width <= 0 || height <= 0 || width*height != len(levels) {
		return nil, errSize
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, uint32(width)), uint32(height))
	if _, err := c.to.Write(head); err != nil {
		return nil, err
	}
	if _, err := c.to.Write(levels); err != nil {
		return nil, err
	}
	line, err := c.from.ReadBytes('\n')
	if err != nil {
		return nil, err
	}
	return some, json.Unmarshal(line, &some)
}

func (c *child) end() {
	c.to.Close()
	_ = c.cmd.Process.Kill()
	_ = c.cmd.Wait()
}

// Serve reads pictures that come one after the other: width and height in four bytes each, then the levels; and answers each with a line of
// JSON. It ends where no more come.
func Serve(in io.Reader, out io.Writer) error {
	for {
		var size [2]uint32
		if err := binary.Read(in, binary.BigEndian, &size); errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return err
		}
		if n := uint64(size[0]) * uint64(size[1]); n == 0 || n > mostPixels {
			return errSize
		}
		g := newGrey(int(size[0]), int(size[1]))
		if _, err := io.ReadFull(in, g.levels); err != nil {
			return err
		}
		some := read(g)
		if some == nil {
			some = []symbol.Symbol{}
		}
		line, err := json.Marshal(some)
		if err != nil {
			return err
		}
		if _, err := out.Write(append(line, '\n')); err != nil {
			return err
		}
	}
}
