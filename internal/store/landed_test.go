package store

import (
	"crypto/sha256"
	"encoding/hex"
	"testing"
)

// A database that has a migration does not get it again: what has gone out is never changed, a new one is added.
func TestMigrationsThatHaveGoneOutStayAsTheyAre(t *testing.T) {
	t.Parallel()
	for name, want := range map[string]string{
		"00001_book.sql":             "78d8da496b755576f00168c023ff52fe228d363aa573b01ca1c6bf8ce542e5ce",
		"00002_journal.sql":          "56e28da9bc29d59cc9cf15bc13c4bd0f3cac8f46faf3a45f445d3f5a7f1515b5",
		"00003_promises.sql":         "5ab94ea2ef7e30a1126ddb56c93fbe13afd98758d0bcbeefbfe6ae8845aa867c",
		"00004_entry.sql":            "fb3be69a34366051348082ec7ba8251cc54db35e6559c39b2609ba520934dd20",
		"00005_policy.sql":           "fbb47c7e3ad37978368da4c9cff1f708bf9f197525b54c1c8b92ee34ff69d981",
		"00006_names.sql":            "5be3135942225ebe7c127c2ad4bfc45afd780a38e94b0d404849449d1e0704be",
		"00007_counted_together.sql": "1833d54e57b8a8c65d9aa29e54203f71d5c27e43fc264a776117f8c93aab111a",
		"00008_bounds.sql":           "19054f4dc147b1a21ff290a4a03e62fd286b2e8f7973e1336fa496ebd0639902",
		"00009_outbox.sql":           "5a5359ca4d5778f9fb182e900f188b16ae82302c7d30aeb99d80030e80706893",
		"00010_posting.sql":          "103e4017071efca037de205aa2a269b8deb94dfc5f2ab1bc32ba93a36352fd9e",
		"00011_lists.sql":            "1c1504c10f05f939a244f235836def752b677d44a1f72a2d4e868472d555ba35",
		"00012_due.sql":              "dd9f702f84d7af0b1b75474f5c431fc50235132e47f9fb9ca8e78b8fff8a08a0",
		"00013_views.sql":            "3244ae1fc77b3e299d5e79ea6f81172db74f500ca4426fecd46d489d41f9b168",
		"00014_import_shapes.sql":    "c60bfc9dbe7da32045e35aee71caee0368d6971d981da088eb75cc3a34f68205",
		"00015_promise_list.sql":     "00b4aec44acc342aec4902ca876ac17d53eea2ea604cafa2798d7a7a25f16e61",
		"00016_floor_lists.sql":      "2ae3d1a73f024ab2b85cb95f0a58aedad729bff5d3b4434799c56a4e945e4f7d",
		"00017_waves.sql":            "57cffbb68cf701588dc97ab18622d2b4d0575bcfec3d743d3fc1dcdf127f1e69",
		"00018_floor.sql":            "73a40f04033b9fc4dbd780e4fc0306ccaa486ee6f173439d2fb09ad04994014b",
	} {
		text, err := migrations.ReadFile("migrations/" + name)
		if err != nil {
			t.Fatal(err)
		}
		sum := sha256.Sum256(text)
		if got := hex.EncodeToString(sum[:]); got != want {
			t.Errorf("%s was changed (%s): put it back, and add a migration", name, got)
		}
	}
}
