// Package collector takes what scripts in browsers count, while a command runs, and writes
// it where the counts of processes lie.
//
// It listens on the loopback only, on a port of its own, and takes only what names the
// token of its run: pages send totals, so what is told twice counts once.
package collector

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"sync"
	"time"

	"thrush/internal/runtime"
)

// The bounds of what is taken: of one report, in bytes, of pages, and of counters of all
// pages together.
const (
	mostReport   = 4 << 20
	mostPages    = 1 << 13
	mostCounters = 1 << 26
	// Connections at once. Reports take milliseconds, so the oldest of more are those that say
	// nothing, and they must not use up the files that this process may open.
	mostConnections = 256
)

// Collector takes reports of pages.
type Collector struct {
	folder   string
	token    string
	known    func(unit string) (counters int, ok bool)
	listener net.Listener
	server   *http.Server

	mu    sync.Mutex
	pages map[string]*page
	total int        // counters
	open  []net.Conn // the oldest first
}

// page is what one page, or worker, of a browser told.
type page struct {
	mu    sync.Mutex
	path  string
	units map[string]*block
	size  int64 // bytes of the file that blocks are given
}

// block is where the counters of one unit lie.
type block struct {
	at    int64
	total []uint64
}

// Start begins to take reports. They are written to files in a folder; known tells how many
// counters a unit has, or that it is none of this run's.
func Start(folder string, known func(unit string) (counters int, ok bool)) (*Collector, error) {
	random := make([]byte, 16)
	if _, err := rand.Read(random); err != nil {
		return nil, err
	}
	listener, err := net.Listen("tcp4", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("cannot listen on the loopback: %w", err)
	}
	c := &Collector{folder: folder, token: hex.EncodeToString(random), known: known, listener: listener, pages: map[string]*page{}}
	c.server = &http.Server{Handler: c, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 10 * time.Second, WriteTimeout: 10 * time.Second,
		IdleTimeout: 30 * time.Second, MaxHeaderBytes: 1 << 16, ConnState: c.connected, ErrorLog: log.New(io.Discard, "", 0)}
	go func() { _ = c.server.Serve(listener) }()
	return c, nil
}

// connected keeps the number of connections below the bound: the oldest is closed for a new one.
func (c *Collector) connected(conn net.Conn, state http.ConnState) {
	c.mu.Lock()
	defer c.mu.Unlock()
	switch state {
	case http.StateNew:
		if c.open = append(c.open, conn); len(c.open) > mostConnections {
			_ = c.open[0].Close()
			c.open = c.open[1:]
		}
	case http.StateClosed, http.StateHijacked:
		c.open = slices.DeleteFunc(c.open, func(o net.Conn) bool { return o == conn })
	}
}

// URL is where pages report.
func (c *Collector) URL() string { return "http://" + c.listener.Addr().String() + "/" + c.token }

// Close ends it, once what is under way has been taken, or after a second.
func (c *Collector) Close() {
	ctx, cancel := context.WithTimeout(context.Background(), time.Second)
	defer cancel()
	if c.server.Shutdown(ctx) != nil {
		_ = c.server.Close()
	}
}

// report is what a page sends: for each unit, which counters stand at what.
type report struct {
	Page   string
	Counts map[string]struct {
		N  int
		At []int
		To []uint64
	}
}

var isID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// ServeHTTP takes a report. Pages of any origin may send one, as whatever site is tested
// loads the scripts; the token says that they are this run's.
func (c *Collector) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.URL.Path != "/"+c.token || r.Host != c.listener.Addr().String() {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Access-Control-Allow-Origin", "*")
	switch r.Method {
	case http.MethodOptions:
		w.Header().Set("Access-Control-Allow-Methods", "POST")
		w.Header().Set("Access-Control-Allow-Headers", "*")
		w.Header().Set("Access-Control-Allow-Private-Network", "true")
		w.WriteHeader(http.StatusNoContent)
		return
	case http.MethodPost:
	default:
		http.Error(w, "reports are posted", http.StatusMethodNotAllowed)
		return
	}
	var told report
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, mostReport)).Decode(&told); err != nil {
		http.Error(w, "this is no report: "+err.Error(), http.StatusBadRequest)
		return
	}
	if err := c.take(told); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	w.WriteHeader(http.StatusNoContent)
}

// take checks a report and writes what it tells.
func (c *Collector) take(told report) error {
	if !isID.MatchString(told.Page) {
		return errors.New("the report is of no page")
	}
	for unit, counts := range told.Counts {
		n, ok := c.known(unit)
		if !ok || n != counts.N || len(counts.At) != len(counts.To) {
			return errors.New("the report is of a script that is none of this run's")
		}
		for _, i := range counts.At {
			if i < 0 || i >= n {
				return errors.New("the report names counters that are not there")
			}
		}
	}
	p, err := c.page(told)
	if err != nil {
		return err
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	for unit, counts := range told.Counts {
		b := p.units[unit]
		if b == nil {
			b = &block{at: p.size, total: make([]uint64, counts.N)}
			p.units[unit] = b
			p.size += int64(runtime.HeaderSize + 8*counts.N)
		}
		for k, i := range counts.At {
			b.total[i] = max(b.total[i], counts.To[k])
		}
		if err := p.write(unit, b); err != nil {
			return err
		}
	}
	return nil
}

// page gives what is known of a page, and makes sure that there is room for what it tells.
func (c *Collector) page(told report) (*page, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	p := c.pages[told.Page]
	if p == nil {
		if len(c.pages) >= mostPages {
			return nil, errors.New("too many pages report")
		}
		p = &page{path: filepath.Join(c.folder, fmt.Sprintf("p%d-b%d", os.Getpid(), len(c.pages))), units: map[string]*block{}}
		c.pages[told.Page] = p
	}
	more := 0
	for unit, counts := range told.Counts {
		if p.units[unit] == nil {
			more += counts.N
		}
	}
	if c.total+more > mostCounters {
		return nil, errors.New("pages report too many counters")
	}
	c.total += more
	return p, nil
}

// write puts the counters of a unit into the file of the page.
func (p *page) write(unit string, b *block) error {
	data := make([]byte, runtime.HeaderSize, runtime.HeaderSize+8*len(b.total))
	copy(data, fmt.Sprintf("%s%s%08x8", runtime.Magic, unit, len(b.total)))
	for _, n := range b.total {
		data = binary.LittleEndian.AppendUint64(data, n)
	}
	f, err := os.OpenFile(p.path, os.O_WRONLY|os.O_CREATE, 0o666)
	if err != nil {
		return err
	}
	_, err = f.WriteAt(data, b.at)
	return errors.Join(err, f.Close())
}
