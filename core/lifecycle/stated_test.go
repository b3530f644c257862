package lifecycle

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What people would read in these texts, written down by hand.
var saidBySuppliers = map[Standing]string{
	Active: "Active;ACTIVE;active;In Production;In production.;Volume Production;Mass Production;Preferred;Recommended;Recommended for new designs;NEW PRODUCT;" +
		"Available;In Stock Production;Production;Full production;Currently in production;Aktiv;In Serie;Lieferbar;Status: Active;Product Status: Active;" +
		"Lifecycle: Active;Lifecycle Status: Active;Part Status - Active;Life cycle: Active;actif;En production;En cours de production;activo;En producción;" +
		"attivo;In produzione;量産中;生産中;量産;Active (Recommended);Active, in stock;Still in production",
	NotForNew: "NRND;nrnd;N.R.N.D.;NRFND;NFND;Not Recommended for New Designs;Not Recommended for New Design;NOT RECOMMENDED FOR NEW DESIGNS (NRND);" +
		"NRND (Not Recommended for New Designs);Not recommended;Not for new designs;Not for New Design (NFND);Last Time Buy;LTB;Last Time Buy (LTB);Last Order;" +
		"Last Buy;Last Shipment;Lifetime Buy;Life Time Buy;Final order;Phase-out;Phase out;Phasing Out;To be discontinued;Going obsolete;Being discontinued;" +
		"Discontinuation announced;Discontinuation notice;Discontinuation pending;EOL announced;Mature;Nicht für Neuentwicklungen;nicht für Neuentwicklung;" +
		"Nicht für Neuentwicklungen empfohlen;Nicht empfohlen;Auslaufartikel;auslaufend;Auslauf;Abkündigung;Abkündigung angekündigt;Nicht mehr für Neuentwicklungen;" +
		"Letzte Bestellung;Non recommandé pour les nouvelles conceptions;Non recommandé;Déconseillé pour les nouveaux développements;Fin de série;" +
		"No recomendado para nuevos diseños;No recomendado;Sconsigliato per nuovi progetti;Non raccomandato per nuovi progetti;新規設計非推奨;新規設計には推奨しません;" +
		"Product status: NRND;Lifecycle: Not recommended for new designs;Part Status: Last Time Buy;Inactive for new design",
	Obsolete: "Obsolete;OBSOLETE;obsolete!;EOL;E.O.L.;End of Life;End-of-Life;End of life (EOL);EOL (End of Life);Discontinued;Discontinued product;" +
		"Product discontinued;Obsolete product;Obsolete part;Discontinued at Supplier;Discontinued by manufacturer;Discontinued by the manufacturer;" +
		"Out of production;No longer produced;No longer manufactured;No longer available;Not available any more;Not in production;Withdrawn;Cancelled;" +
		"Abgekündigt;Obsolet;Eingestellt;Produktion eingestellt;Nicht mehr lieferbar;nicht mehr verfügbar;Nicht mehr in Produktion;Ausgelaufen;Obsolète;Arrêté;" +
		"Arrêt de production;Fin de vie;Abandonné;Obsoleto;Descatalogado;Discontinuado;Fuori produzione;Fuori catalogo;Dismesso;生産終了;生産終了品;製造中止;廃止;廃止品;" +
		"Status: Obsolete;Product Status: Obsolete;Lifecycle: EOL;Lifecycle Status: End of Life;Part Status: Discontinued;Product: Obsolete",
	"": "not obsolete;Not EOL;Obsolete? ask;unknown;n/a;-;?;Preview;Pre-release;Sample;Engineering sample;Prototype;Announced;Coming soon;Contact factory;Call;" +
		"Custom;yes;no;1;0;Not active;Inactive supplier;Active component passive;passive;Active 2 Obsolete 3;Active until 2027;Replaced by XQ-2;RoHS;" +
		"Active/Obsolete;active or obsolete;Obsolete since 2031;EOL 2031-04;non obsolete;nicht abgekündigt;not discontinued;Never obsolete;Active low;Inactive;" +
		"New;obsolete?yes;in stock;5000;activex;EOL 2027;Obsolete, use TW-2;production 2024;Obsolete, last time buy;status;soon;active soon;" +
		"recommended obsolete;last time buy active",
}

func TestWhatSuppliersSayOfAProduct(t *testing.T) {
	read := 0
	for want, all := range saidBySuppliers {
		for text := range strings.SplitSeq(all, ";") {
			got, ok := Stated(text)
			assert.Equal(t, want != "", ok, text)
			assert.Equal(t, want, got, text)
			read++
		}
	}
	assert.Greater(t, read, 180)
}

func TestWhatIsPutTogetherOfKnownPhrasesSaysWhatAllOfThemSay(t *testing.T) {
	standing := map[stating]Standing{isActive: Active, isEnding: NotForNew, isObsolete: Obsolete}
	split := func(s stating) []string { return strings.Split(statedWords[s], ";") }
	for kind, want := range standing {
		for i, w := range split(kind) {
			for _, text := range []string{w, strings.ToUpper(w), " " + strings.ReplaceAll(w, " ", "-") + " ", strings.ReplaceAll(w, " ", "  "), "(" + w + ")",
				split(besides)[i%len(split(besides))] + ": " + w, w + " / " + split(kind)[(i+3)%len(split(kind))]} {
				got, ok := Stated(text)
				assert.True(t, ok, text)
				assert.Equal(t, want, got, text)
			}
			for other := range standing {
				if other != kind {
					_, ok := Stated(w + ", " + split(other)[i%len(split(other))])
					assert.False(t, ok, "%q and another say two things", w)
				}
			}
			for _, before := range []string{"not ", "maybe ", "kein "} {
				if got, ok := Stated(before + w); ok {
					assert.NotEqual(t, want, got, "%q is not %q", before+w, w)
				}
			}
		}
	}
	seen := map[string]stating{}
	for s, all := range statedWords {
		for w := range strings.SplitSeq(all, ";") {
			assert.Zero(t, seen[w], "%q stands twice", w)
			seen[w] = s
		}
	}
}
