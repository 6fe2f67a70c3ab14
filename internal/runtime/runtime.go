// Package runtime says how the counters of woven programs lie in their files; the
// texts put into programs are in folders below, one a language.
package runtime

// Magic begins the counters of one woven file in a process's counter file. It is
// followed by the unit (32 bytes), the number of counters (8 hexadecimal digits), the
// bytes per counter (1 digit; f for 8 of a floating-point number), padded to HeaderSize bytes.
const Magic = "thrush counters\n"

// HeaderSize is the number of bytes before the first counter.
const HeaderSize = 64

// PoolMagic begins a counter file that processes take over from one another when they
// have ended. It is followed by the process it belongs to and the number of processes
// that had it, 8 bytes each.
const PoolMagic = "thr-pool"

// DirVariable is the environment variable that names the folder of counter files.
const DirVariable = "THRUSH_COUNTERS"
