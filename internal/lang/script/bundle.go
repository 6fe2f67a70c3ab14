package script

import (
	"bytes"
	"fmt"
)

// What a bundler made, and made smaller, is no source: nobody reads it, and it takes longer
// to look at than all that it was made of. It is known by lines that nobody writes.
const (
	longLine  = 20_000 // bytes; no line of a source is so long, but for data
	bundleTop = 2_000  // bytes in which bundlers say who they are
)

// bundlers are how the texts of some bundlers begin.
var bundlers = [][]byte{
	[]byte("webpackBootstrap"), []byte("webpackUniversalModuleDefinition"), []byte("webpackChunk"),
	[]byte("parcelRequire"), []byte("__vite__"), []byte("(function(){function r(e,n,t){function o(i,f)"),
}

// Bundled says by what a text can be told to be what a bundler made; or nothing. Data in a
// long line is none: a list, say, or a template.
func Bundled(text []byte) string {
	head := text[:min(len(text), bundleTop)]
	for _, b := range bundlers {
		if bytes.Contains(head, b) {
			return fmt.Sprintf("it begins as what bundlers make does (%s)", b[:min(len(b), 32)])
		}
	}
	for n := 1; len(text) > 0; n++ {
		line, rest, _ := bytes.Cut(text, []byte{'\n'})
		if len(line) > longLine && (bytes.Count(line, []byte(";"))+bytes.Count(line, []byte("function")) > len(line)/400) {
			return fmt.Sprintf("line %d has %d bytes of code, as what bundlers make has", n, len(line))
		}
		text = rest
	}
	return ""
}
