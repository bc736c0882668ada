package sheet

import (
	"errors"
	"io"
	"os"
	"strconv"
	"strings"

	"ambrosa/core/table"
)

// Part opens a part of a workbook: a picture that a cell's Picture names. os.ErrNotExist where there is none.
func Part(f File, name string) (io.ReadCloser, error) {
	if b, ok := f.(interface {
		part(string) (io.ReadCloser, error)
	}); ok {
		return b.part(name)
	}
	return nil, os.ErrNotExist
}

// lying are the pictures that lie on a sheet, by the row and column of the cell that they begin in.
type lying map[int]map[int]string

// mostLying is how many pictures of a sheet are read.
const mostLying = 200_000

// readLying finds the pictures that lie in the cells of a sheet. Source: ECMA-376, part 1, section 20.5 (drawings anchored to cells).
// One that is anchored to no cell is not found.
func (x *xlsx) readLying(sheet string) (lying, error) {
	drawing := ""
	err := x.walk(relsOf(sheet), func(s *scanner) error {
		kind, _ := s.attribute("Type")
		if target, ok := s.attribute("Target"); ok && strings.HasSuffix(kind, "/drawing") {
			drawing = beside(sheet, target)
		}
		return nil
	})
	if errors.Is(err, os.ErrNotExist) || err == nil && drawing == "" {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	targets := map[string]string{}
	err = x.walk(relsOf(drawing), func(s *scanner) error {
		id, _ := s.attribute("Id")
		kind, _ := s.attribute("Type")
		mode, _ := s.attribute("TargetMode")
		if target, ok := s.attribute("Target"); ok && strings.HasSuffix(kind, "/image") && mode != "External" {
			targets[id] = beside(drawing, target)
		}
		return nil
	})
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	all, row, column, found := lying{}, -1, -1, 0
	inFrom := false
	err = x.walk(drawing, func(s *scanner) error {
		switch string(s.name) {
		case "oneCellAnchor", "twoCellAnchor", "absoluteAnchor":
			row, column = -1, -1
		case "from":
			inFrom = true
		case "to", "ext", "pic":
			inFrom = false
		case "row", "col":
			text, err := s.textOf(nil)
			n, wrong := strconv.Atoi(strings.TrimSpace(string(text)))
			if err != nil || wrong != nil || !inFrom {
				return err
			}
			if string(s.name) == "row" {
				row = n
			} else {
				column = n
			}
		case "blip":
			id, _ := s.attribute("embed")
			target, known := targets[id]
			if !known || row < 0 || row >= MaxRows || column < 0 || column >= MaxColumns || found >= mostLying {
				return nil
			}
			found++
			if all[row+1] == nil {
				all[row+1] = map[int]string{}
			}
			if _, taken := all[row+1][column]; !taken {
				all[row+1][column] = target
			}
		}
		return nil
	})
	return all, err
}

// put puts the pictures that lie in a row into its cells.
func (l lying) put(row int, cells []table.Cell) []table.Cell {
	for column, part := range l[row] {
		for len(cells) <= column {
			cells = append(cells, table.Cell{})
		}
		cells[column].Picture = part
	}
	return cells
}
