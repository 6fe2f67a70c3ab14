package documents

// Setting is a key of the configuration, what is in force, and from where.
type Setting = struct {
	Key   string `json:"key"`
	Value string `json:"value"`
	From  string `json:"from"`
}

// ConfigDocument is thrush.config/1.
type ConfigDocument struct {
	Schema   string    `json:"schema"`
	Root     string    `json:"root"`
	Settings []Setting `json:"settings"`
}

// Config gives the document for settings.
func Config(root string, list []Setting) ConfigDocument {
	return ConfigDocument{"thrush.config/1", root, append([]Setting{}, list...)}
}
