package cabinet

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
