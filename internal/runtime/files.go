package runtime

import "embed"

// Files gives what is embedded from the folder runtime and from the folder built below it, by the
// names of the files. ok is false if nothing was built: make does that.
func Files(from embed.FS) (out map[string][]byte, ok bool) {
	out = map[string][]byte{}
	for _, dir := range []string{"runtime", "runtime/built"} {
		entries, err := from.ReadDir(dir)
		if err != nil {
			return nil, false
		}
		for _, e := range entries {
			if e.IsDir() || e.Name() == ".gitignore" {
				continue
			}
			name := dir + "/" + e.Name()
			ok = ok || dir != "runtime"
			data, err := from.ReadFile(name)
			if err != nil {
				return nil, false
			}
			out[e.Name()] = data
		}
	}
	return out, ok
}
