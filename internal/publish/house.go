package publish

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"strings"

	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrSite is returned for an address of the house that is none.
	ErrSite = errors.New("the address of this house is written as https://pictures.example")
	// ErrNoAddresses is returned where an admin did not allow public addresses.
	ErrNoAddresses = errors.New("no admin has allowed public addresses")
)

// House is what an admin says of this house to those outside.
type House struct {
	Site      string `json:"site" maxLength:"200"` // where it is reached: https://pictures.example; what links and public addresses begin with
	Addresses bool   `json:"addresses"`            // whether channels may have public addresses
}

// houseName is what it is kept under.
const houseName = "outgoing"

// House is what an admin said, with the usual address where none did.
func (p *Publish) House(ctx context.Context) (h House, err error) {
	value, err := p.Store.HouseSetting(ctx, houseName)
	if err == nil {
		err = json.Unmarshal(value, &h)
	}
	if errors.Is(err, pgx.ErrNoRows) {
		err = nil
	}
	if h.Site == "" {
		h.Site = p.Usual
	}
	return h, err
}

// SetHouse sets it. Where public addresses are not allowed any more, nothing is at any. ErrSite.
func (p *Publish) SetHouse(ctx context.Context, person int64, h House) error {
	h.Site = strings.TrimRight(strings.TrimSpace(h.Site), "/")
	u, err := url.Parse(h.Site)
	if h.Site != "" && (err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.RawQuery != "" || u.User != nil) {
		return ErrSite
	}
	value, err := json.Marshal(h)
	if err != nil {
		return err
	}
	return p.Store.SetHouseSetting(ctx, query.SetHouseSettingParams{Name: houseName, Value: value, Person: person})
}

// OpenAddresses gives the files of a channel public addresses; those that it had before are taken back. Errors: ErrNoAddresses, pgx.ErrNoRows.
func (p *Publish) OpenAddresses(ctx context.Context, id int64) error {
	h, err := p.House(ctx)
	if err != nil {
		return err
	}
	if !h.Addresses {
		return ErrNoAddresses
	}
	key := make([]byte, sha256Size)
	_, _ = rand.Read(key) // it never fails
	return p.setAddressKey(ctx, id, key)
}

// CloseAddresses takes the public addresses of a channel back, for good. pgx.ErrNoRows.
func (p *Publish) CloseAddresses(ctx context.Context, id int64) error {
	return p.setAddressKey(ctx, id, nil)
}

func (p *Publish) setAddressKey(ctx context.Context, id int64, key []byte) error {
	n, err := p.Store.SetAddressKey(ctx, query.SetAddressKeyParams{ID: id, Key: key})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}

// Public is a file at a public address.
type Public struct {
	Path  string
	Key   string // of its bytes: another where it is another
	Bytes int64
}

// At is what is at a public address, given without /r/. errNoAddress where nothing is.
func (p *Publish) At(ctx context.Context, address string) (Public, error) {
	var slot int64
	var proof string
	name, _, _ := strings.Cut(address, ".")
	if n, err := fmt.Sscanf(name, "%d-%s", &slot, &proof); err != nil || n != 2 {
		return Public{}, ErrNoAddress
	}
	f, err := p.Store.PublicFile(ctx, slot)
	if errors.Is(err, pgx.ErrNoRows) {
		return Public{}, ErrNoAddress
	}
	if err != nil {
		return Public{}, err
	}
	h, err := p.House(ctx)
	if err != nil {
		return Public{}, err
	}
	if !h.Addresses || f.AddressKey == nil || f.Path == "" || !proves(f.AddressKey, slot, proof) {
		return Public{}, ErrNoAddress
	}
	return Public{Path: f.Path, Key: f.Key, Bytes: f.Bytes}, nil
}
