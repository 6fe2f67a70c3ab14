// Pages takes pictures of a rendered report in headless Chromium: pages REPORT
// OUT draws the folder REPORT and writes PNG files into OUT. Further words name
// the pictures to take; without them all are taken. Run it by: make screenshots
package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
)

// shot is one picture.
type shot struct {
	name, page string
	width      int64
	height     int64
	dark       bool
	do         string // a script to run before
}

const openLine = `document.querySelector("#L%d button").click(); document.getElementById("L%[1]d").scrollIntoView({block: "center"})`

var shots = []shot{
	{"page-overview", "index.html", 1280, 800, false, ""},
	{"page-compared", "../compared/compared.html", 1280, 800, false, ""},
	{"page-map", "index.html", 1280, 800, false, `document.querySelector("section.map").scrollIntoView()`},
	{"page-source", "files/fare/fare.go.html", 1280, 800, false, fmt.Sprintf(openLine, 51)},
	{"page-source-dark", "files/fare/fare.go.html", 1280, 800, true, fmt.Sprintf(openLine, 51)},
	{"page-functions", "functions.html", 1280, 800, false, ""},
	{"page-narrow", "index.html", 390, 800, false, ""},
	{"badge", "badges.html", 420, 132, false, ""},
}

func main() {
	report, out := os.Args[1], os.Args[2]
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.Flag("force-color-profile", "srgb"))
	allocated, stop := chromedp.NewExecAllocator(context.Background(), options...)
	defer stop()
	browser, quit := chromedp.NewContext(allocated)
	defer quit()
	browser, cancel := context.WithTimeout(browser, 2*time.Minute)
	defer cancel()
	for _, s := range shots {
		if len(os.Args) > 3 && !slices.Contains(os.Args[3:], s.name) {
			continue
		}
		if err := take(browser, s, report, filepath.Join(out, s.name+".png")); err != nil {
			fmt.Fprintln(os.Stderr, s.name+":", err)
			os.Exit(1)
		}
	}
}

func take(browser context.Context, s shot, report, file string) error {
	path, err := filepath.Abs(filepath.Join(report, s.page))
	if err != nil {
		return err
	}
	look := "light"
	if s.dark {
		look = "dark"
	}
	media := emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: look}}}
	if _, err := chromedp.Call(browser, emulation.SetEmulatedMedia, media); err != nil {
		return err
	}
	err = chromedp.Do(browser, chromedp.EmulateViewport(s.width, s.height), chromedp.Navigate("file://"+path), chromedp.Sleep(300*time.Millisecond))
	if err != nil {
		return err
	}
	if _, err := chromedp.Run(browser, chromedp.Evaluate[int](s.do+";0")); err != nil {
		return err
	}
	if err := chromedp.Do(browser, chromedp.Sleep(300*time.Millisecond)); err != nil {
		return err
	}
	picture, err := chromedp.Run(browser, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(file, picture, 0o666)
}
