package pages

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"html"
	"html/template"
	"io"
	"os"
	"path/filepath"
	"strings"

	"thrush/internal/atomic"
	"thrush/internal/reading"
	"thrush/internal/report/prose"
)

// ToFile draws a report as one file, to be sent to somebody. Its pages are the
// same as those of a folder; the script shows one at a time.
func ToFile(r *reading.Reader, name string, o Options) (Result, error) {
	b := newBook(r, o, linker{single: true})
	parts, err := os.CreateTemp(filepath.Dir(name), "."+filepath.Base(name)+".*")
	if err != nil {
		return Result{}, err
	}
	defer os.Remove(parts.Name())
	defer parts.Close()
	var first page
	w := bufio.NewWriterSize(parts, 1<<20)
	err = b.draw(func(p page) error {
		if p.name == "index.html" {
			first = p
			return nil
		}
		// A text holds no end of a template: source is escaped on its way here.
		_, err := fmt.Fprintf(w, "<template data-page=\"%s\" data-title=\"%s\">%s</template>\n",
			html.EscapeString(p.name), html.EscapeString(prose.Safe(p.title)), p.main)
		return err
	})
	if err = errors.Join(err, w.Flush()); err != nil {
		return Result{}, err
	}
	if _, err := parts.Seek(0, io.SeekStart); err != nil {
		return Result{}, err
	}
	return Result{First: name, Pages: len(b.pageNames) + 3 + flag(b.baseline != nil), Stale: b.stale}, b.writeSingle(name, first, parts)
}

func (b *book) writeSingle(name string, first page, parts io.Reader) error {
	css, js := style(b.opt.Palette), script()
	info := b.reader.Recording.Info
	head, err := render("page", map[string]any{
		"Link": b.link, "Title": prose.Safe(first.title), "Project": prose.Safe(info.Project), "Compared": b.baseline != nil, "Page": "index", "Single": true,
		"Main": template.HTML(first.main), "InlineStyle": template.CSS(css), "InlineScript": template.JS(js),
		"Policy": fmt.Sprintf("default-src 'none'; script-src %s; style-src %s; img-src data:; base-uri 'none'; form-action 'none'", digest(js), digest(css)),
	})
	if err != nil {
		return err
	}
	f, err := atomic.Create(name)
	if err != nil {
		return err
	}
	whole := io.MultiReader(bytes.NewReader(head), parts, strings.NewReader("</body>\n</html>\n"))
	if _, err := io.Copy(f, whole); err != nil {
		f.Drop()
		return err
	}
	return f.Keep(true)
}
