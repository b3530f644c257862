package model

import (
	"regexp"
	"slices"
	"strings"
)

// typeWords are the ways people write a pin's type.
var typeWords = map[string]string{
	"i": Input, "in": Input, "input": Input, "di": Input, "ai": Input, "analog input": Input, "digital input": Input, "eingang": Input, "entrée": Input, "entrada": Input, "ingresso": Input, "入力": Input, "输入": Input,
	"o": Output, "out": Output, "output": Output, "do": Output, "ao": Output, "analog output": Output, "digital output": Output, "push pull": Output, "ausgang": Output, "sortie": Output, "salida": Output, "uscita": Output, "出力": Output, "输出": Output,
	"io": Bidirectional, "i/o": Bidirectional, "b": Bidirectional, "bi": Bidirectional, "bidir": Bidirectional, "bidirectional": Bidirectional, "inout": Bidirectional, "dio": Bidirectional, "aio": Bidirectional, "input/output": Bidirectional, "in/out": Bidirectional, "bidi": Bidirectional, "bi directional": Bidirectional, "i/o/z": Bidirectional,
	"bidirektional": Bidirectional, "ein/ausgang": Bidirectional, "ein/aus": Bidirectional, "e/a": Bidirectional, "eingang/ausgang": Bidirectional, "entrée/sortie": Bidirectional, "e/s": Bidirectional, "entrada/salida": Bidirectional, "ingresso/uscita": Bidirectional, "入出力": Bidirectional, "双向": Bidirectional, "输入/输出": Bidirectional, "输入输出": Bidirectional,
	"p": PowerIn, "power/ground": PowerIn, "power/gnd": PowerIn, "pwr": PowerIn, "power": PowerIn, "s": PowerIn, "supply": PowerIn, "power in": PowerIn, "power input": PowerIn, "gnd": PowerIn, "g": PowerIn, "ground": PowerIn, "pi": PowerIn,
	"versorgung": PowerIn, "masse": PowerIn, "alimentation": PowerIn, "alimentación": PowerIn, "tierra": PowerIn, "alimentazione": PowerIn, "massa": PowerIn, "電源": PowerIn, "接地": PowerIn, "グランド": PowerIn, "电源": PowerIn,
	"po": PowerOut, "power out": PowerOut, "power output": PowerOut, "regulator output": PowerOut,
	"oc": OpenCollector, "od": OpenCollector, "open collector": OpenCollector, "open drain": OpenCollector, "o/d": OpenCollector, "offener kollektor": OpenCollector, "collecteur ouvert": OpenCollector,
	"oe": OpenEmitter, "open emitter": OpenEmitter, "open source": OpenEmitter,
	"z": TriState, "o/z": TriState, "tri state": TriState, "three state": TriState, "high z": TriState,
	"nc": NotConnected, "n/c": NotConnected, "no connect": NotConnected, "no connection": NotConnected, "unconnected": NotConnected, "not connected internally": NotConnected, "not connected": NotConnected, "nic": NotConnected, "no internal connection": NotConnected, "not internally connected": NotConnected, "dnc": NotConnected, "do not connect": NotConnected, "nicht verbunden": NotConnected, "nicht angeschlossen": NotConnected, "nicht belegt": NotConnected, "unbelegt": NotConnected, "non connecté": NotConnected, "no conectado": NotConnected, "non connesso": NotConnected, "未接続": NotConnected,
	"passive": Passive, "pas": Passive, "a": Passive, "analog": Passive, "rf": Passive, "passiv": Passive, "passif": Passive, "pasivo": Passive, "passivo": Passive,
}

// signalWords are what stands beside a direction, or a supply, and changes nothing of it: how the signal is kept, and what is built in.
var signalWords = wordsIn("analog analogue digital logic cmos ttl lvcmos lvttl lvds schmitt trigger internal internally weak strong differential single ended inverting noninverting active rf hs ls high low speed pull up down pullup pulldown pu pd wpu wpd tolerant compatible buffered unbuffered with has and the a an pin signal only " +
	"analoger analoge digitaler digitale interner mit analogique numérique analógica analógico analogica analogico tolerante avec con")

// powerWords are the words that a supply is named by.
var powerWords = wordsIn("power supply ground gnd voltage return positive negative main core digital analog analogue io i/o rail pin chassis auxiliary backup battery")

// supplies are those of them that say that it is one.
var supplies = wordsIn("power supply ground gnd")

// denies are the words by which a text says the opposite of what it names, or that it does not know.
var denies = wordsIn("no not non nor never nicht kein keine without ohne sans sin senza pas aucun ningún nessun un unused reserved reserviert réservé maybe either depends see siehe voir")

func wordsIn(list string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(list) {
		m[w] = true
	}
	return m
}

// inTwoWords sets a blank into words of two parts that people write as one too.
var inTwoWords = func() *strings.Replacer {
	var pairs []string
	for _, two := range []string{"open drain", "open collector", "open emitter", "open source", "tri state", "three state", "push pull", "high z", "bi directional", "pull up", "pull down"} {
		pairs = append(pairs, strings.ReplaceAll(two, " ", ""), two)
	}
	return strings.NewReplacer(append(pairs, "3 state", "three state", "3state", "three state", "hi z", "high z", "hiz", "high z", "non inverting", "noninverting")...)
}()

var (
	dotted   = regexp.MustCompile(`\b(\p{L})\.(?:\s?(\p{L})\.?)\b\.?`)
	slashed  = regexp.MustCompile(`\s*/\s*`)
	figure   = regexp.MustCompile(`^[0-9]+(?:[.,][0-9]+)?(?:ma|v|µa|ua|k|kω|ω|ohm)?$`)
	unitWord = wordsIn("ma v µa ua k kω ω ohm ohms")
)

// PinType reads what a table, or another program, says of a pin's type: a word, or a phrase whose last word is the direction ("reset input", "open-drain output", "Takteingang") or whose
// first is in a language that puts it there ("entrée d'horloge"). What stands in brackets or behind a comma may only say how the signal is kept. False where a word could make it
// another: what is denied, in doubt, or named after a direction ("output enable").
func PinType(s string) (string, bool) {
	text := strings.ToLower(strings.Trim(strings.TrimSpace(s), `"'. `))
	if text == "" {
		return "", strings.TrimSpace(s) == ""
	}
	if strings.ContainsAny(text, "?*!¹²³†") {
		return "", false
	}
	text = dotted.ReplaceAllString(text, "$1$2")
	text = slashed.ReplaceAllString(strings.NewReplacer("-/", "/", "-", " ", "_", " ", "–", " ", "’", " ", "'", " ", "&", " and ").Replace(text), "/")
	text = inTwoWords.Replace(text)
	parts := strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune("()[],;:（）、", r) })
	if len(parts) == 0 {
		return "", false
	}
	kind, ok := phrase(strings.Fields(parts[0]))
	if !ok {
		return "", false
	}
	for _, p := range parts[1:] {
		words := strings.Fields(p)
		if onlySignal(words) {
			continue
		}
		more, ok := phrase(words)
		switch {
		case ok && more == kind:
		case ok && kind == Output && (more == OpenCollector || more == OpenEmitter || more == TriState):
			kind = more
		default:
			return "", false
		}
	}
	return kind, true
}

// onlySignal says whether words say nothing but how a signal is kept.
func onlySignal(words []string) bool {
	return !slices.ContainsFunc(words, func(w string) bool { return !signalWords[w] && !figure.MatchString(w) && !unitWord[w] })
}

// phrase is the type that a phrase without brackets names.
func phrase(words []string) (string, bool) {
	for len(words) > 0 {
		if kind, ok := typeWords[strings.Join(words, " ")]; ok {
			return kind, true
		}
		if slices.ContainsFunc(words, func(w string) bool { return denies[w] }) {
			return "", false
		}
		if kind, ok := supply(words); ok {
			return kind, true
		}
		if kind, ok := directed(words); ok {
			return kind, true
		}
		switch last := len(words) - 1; { // how the signal is kept says nothing of its direction: "digital in", "entrée analogique"
		case last > 0 && onlySignal(words[last:]):
			words = words[:last]
		case last > 0 && onlySignal(words[:1]):
			words = words[1:]
		default:
			return "", false
		}
	}
	return "", false
}

// supply is the type of words that all name a supply, the last of them perhaps its direction.
func supply(words []string) (string, bool) {
	kind := PowerIn
	switch last := words[len(words)-1]; last {
	case "in", "input", "out", "output":
		if words = words[:len(words)-1]; last == "out" || last == "output" {
			kind = PowerOut
		}
	}
	if !slices.ContainsFunc(words, func(w string) bool { return supplies[w] }) || slices.ContainsFunc(words, func(w string) bool { return !powerWords[w] }) {
		return "", false
	}
	if kind == PowerOut && (slices.Contains(words, "ground") || slices.Contains(words, "gnd")) {
		return "", false
	}
	return kind, true
}

// The words of a direction that stand behind what the signal is ("reset input"), and those that stand before it ("entrée d'horloge").
var (
	behindIt = map[string]string{"input": Input, "output": Output, "i/o": Bidirectional, "input/output": Bidirectional}
	beforeIt = map[string]string{"entrée": Input, "entree": Input, "entrada": Input, "ingresso": Input, "sortie": Output, "salida": Output, "saída": Output, "uscita": Output}
)

// ways are directions in one word, of which two make a pin of both.
var ways = map[string]string{"input": Input, "in": Input, "i": Input, "output": Output, "out": Output, "o": Output, "entrée": Input, "sortie": Output, "entrada": Input, "salida": Output, "ingresso": Input, "uscita": Output, "eingang": Input, "ausgang": Output}

var (
	joins = wordsIn("or and und oder ou et o y e")
	links = wordsIn("de d du des di del della dell do da")
)

// kept are how an output drives: beside it they are its type.
var kept = []struct{ words, kind string }{{"open drain", OpenCollector}, {"open collector", OpenCollector}, {"open emitter", OpenEmitter}, {"tri state", TriState}, {"three state", TriState}, {"high z", TriState}, {"push pull", Output}, {"od", OpenCollector}, {"oc", OpenCollector}}

// directed is the type of a phrase that has a direction where its language puts it.
func directed(words []string) (string, bool) {
	if len(words) < 2 {
		return compound(words[0])
	}
	first, last, before := words[0], words[len(words)-1], words[:len(words)-1]
	if a, b := ways[first], ways[last]; a != "" && b != "" && a != b && (len(words) == 2 || len(words) == 3 && joins[words[1]]) {
		return Bidirectional, true
	}
	if kind := beforeIt[first]; kind != "" {
		switch {
		case !links[words[1]] || len(words) < 3:
			return "", false
		case strings.Contains(words[2], "aliment"):
			return map[string]string{Input: PowerIn, Output: PowerOut}[kind], len(words) == 3
		}
		return kind, true
	}
	if kind := behindIt[last]; kind != "" {
		return driven(before, kind)
	}
	if kind, ok := compound(last); ok {
		return kind, true
	}
	if kind := ways[last]; kind != "" && onlySignal(before) {
		return kind, true
	}
	if kind := typeWords[last]; (kind == Bidirectional || kind == Input || kind == Output) && len(words) == 2 && (first == "a" || first == "d") {
		return kind, true
	}
	return "", false
}

// driven is the type of a direction behind words, which may say how an output drives; what drives so and is no output alone is left open.
func driven(before []string, kind string) (string, bool) {
	text := strings.Join(before, " ")
	for _, k := range kept {
		rest, is := strings.CutPrefix(text+" ", k.words+" ")
		if !is {
			rest, is = strings.CutSuffix(" "+text, " "+k.words)
		}
		if is {
			return k.kind, kind == Output && onlySignal(strings.Fields(rest))
		}
	}
	return kind, true
}

// compound is the direction at the end of a German word.
func compound(w string) (string, bool) {
	for end, kind := range map[string]string{"eingang": Input, "ausgang": Output, "masse": PowerIn, "versorgung": PowerIn} {
		if before, ok := strings.CutSuffix(w, end); ok && before != "" {
			if strings.HasPrefix(before, "versorgung") || strings.HasPrefix(before, "speise") {
				return map[string]string{Input: PowerIn, Output: PowerOut}[kind], true
			}
			return kind, true
		}
	}
	return "", false
}
