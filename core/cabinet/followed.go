package cabinet

// Renamed lists the parameters that steps give another name.
func Renamed(steps []Step) (out []string) {
	for _, st := range steps {
		if st.Do == Rename && st.To != "" {
			out = append(out, st.Parameter)
		}
	}
	return out
}

// Followed says what a parameter that a document names is called after steps; gone is true where they retire it everywhere.
func Followed(key string, steps []Step) (now string, gone bool) {
	for _, st := range steps {
		switch {
		case st.Do == Rename && st.Parameter == key && st.To != "":
			key = st.To
		case st.Do == Retire && st.Parameter == key && st.Drawer == "":
			return key, true
		}
	}
	return key, false
}
