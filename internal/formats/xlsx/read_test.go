package xlsx_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// workbook makes a workbook of one sheet by hand, so that it can be wrong.
func workbook(t testing.TB, sheet, workbookPr string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range map[string]string{
		"_rels/.rels":                `<Relationships><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<x:workbook xmlns:x="m" xmlns:r="r">` + workbookPr + `<x:sheets><x:sheet name="Loans &amp; more" r:id="r1"/></x:sheets></x:workbook>`,
		"xl/_rels/workbook.xml.rels": `<Relationships><Relationship Id="r1" Type="a/worksheet" Target="s.xml"/><Relationship Id="r2" Type="a/styles" Target="/xl/st.xml"/><Relationship Id="r3" Type="a/sharedStrings" Target="ss.xml"/></Relationships>`,
		"xl/st.xml":                  `<styleSheet><numFmts><numFmt numFmtId="170" formatCode="[$-816]d &quot;de&quot; mmm"/></numFmts><cellXfs><xf numFmtId="0"/><xf numFmtId="170"/></cellXfs></styleSheet>`,
		"xl/ss.xml":                  `<sst><si><t>plain</t></si><si><r><t>rich </t></r><r><t>text</t></r></si></sst>`,
		"xl/s.xml":                   sheet,
	} {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = w.Write([]byte(text))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func TestCellsOfEveryKind(t *testing.T) {
	raw := workbook(t, `<worksheet><sheetData>
	 <row r="2"><c r="B2" t="s"><v>0</v></c><c t="s"><v>1</v></c><c t="inlineStr"><is><t>in place</t></is></c></row>
	 <row><c t="b"><v>1</v></c><c s="1"><v>46112</v></c><c s="1"><v>46112.5</v></c><c><v>0.1</v></c><c t="str"><f>A1</f><v>made</v></c><c t="e"><v>#N/A</v></c></row>
	</sheetData></worksheet>`, "")
	grids, err := xlsx.Read(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	require.Len(t, grids, 1)
	g := grids[0]
	assert.Equal(t, "Loans & more", g.Name)
	assert.Equal(t, "plain", g.At(1, 1).Value.String())
	assert.Equal(t, "rich text", g.At(1, 2).Value.String())
	assert.Equal(t, "in place", g.At(1, 3).Value.String())
	assert.True(t, g.At(2, 0).Value.IsTrue())
	assert.Equal(t, "2026-03-31", g.At(2, 1).Value.String())
	assert.Equal(t, "2026-03-31T12:00", g.At(2, 2).Value.String())
	assert.Equal(t, value.MustNumber("0.1"), g.At(2, 3).Value)
	assert.True(t, g.At(2, 4).Formula)
}

func TestDatesSince1904(t *testing.T) {
	raw := workbook(t, `<worksheet><sheetData><row><c s="1"><v>44650</v></c></row></sheetData></worksheet>`, `<x:workbookPr date1904="1"/>`)
	grids, err := xlsx.Read(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	assert.Equal(t, "2026-03-31", grids[0].At(0, 0).Value.String())
}

func TestABrokenFileNamesSheetAndCell(t *testing.T) {
	for says, sheet := range map[string]string{
		`sheet Loans & more: cell B2: it names shared text "99"`: `<worksheet><sheetData><row r="2"><c r="B2" t="s"><v>99</v></c></row></sheetData></worksheet>`,
		`cell C3: "many" is not a number`:                        `<worksheet><sheetData><row r="3"><c r="C3"><v>many</v></c></row></sheetData></worksheet>`,
		`damaged from here on`:                                   `<worksheet><sheetData><row r="2"><c r="B2"><v>1</v></c></row><row`,
		`out of bounds`:                                          `<worksheet><sheetData><row r="99999999"></row></sheetData></worksheet>`,
		`is not the name of a cell`:                              `<worksheet><sheetData><row><c r="ÄÖ1"><v>1</v></c></row></sheetData></worksheet>`,
	} {
		raw := workbook(t, sheet, "")
		_, err := xlsx.Read(bytes.NewReader(raw), int64(len(raw)))
		var e *xlsx.Error
		require.ErrorAs(t, err, &e, says)
		assert.ErrorContains(t, err, says)
		assert.Equal(t, "Loans & more", e.Sheet)
	}
}

func TestABombIsRefused(t *testing.T) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	w, err := z.Create("xl/worksheets/sheet1.xml")
	require.NoError(t, err)
	_, err = w.Write(make([]byte, 64<<20))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	_, err = xlsx.Read(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.ErrorIs(t, err, xlsx.ErrTooLarge)
}

func FuzzRead(f *testing.F) {
	whole, err := os.ReadFile("../testdata/loans-ticked.xlsx")
	require.NoError(f, err)
	f.Add(whole)
	f.Add(workbook(f, `<worksheet><sheetData><row><c t="s"><v>0</v></c></row></sheetData></worksheet>`, ""))
	f.Fuzz(func(_ *testing.T, raw []byte) {
		_, _ = xlsx.Read(bytes.NewReader(raw), int64(len(raw))) // must only not panic
	})
}

// Ranges of billions of cells cost nothing; cells that are really there, at the
// end of a sheet, cost no more than a file may.
func TestHugeRangesAreHarmless(t *testing.T) {
	raw := workbook(t, `<worksheet><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>No</t></is></c><c r="B1" t="inlineStr"><is><t>Stage</t></is></c></row>
	 <row r="2"><c r="A2"><v>1</v></c><c r="B2" t="inlineStr"><is><t>Open</t></is></c></row></sheetData>
	 <autoFilter ref="A1:XFD1048576"/><mergeCells><mergeCell ref="C3:XFD1048576"/></mergeCells>
	 <dataValidations><dataValidation type="list" sqref="A1:XFD1048576"><formula1>$A$1:$XFD$1048576</formula1></dataValidation></dataValidations></worksheet>`, "")
	grids, err := xlsx.Read(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	r := reading.Read("f", grids)
	require.Len(t, r.Sheets[0].Tables, 1)
	assert.Equal(t, "A1:B2", r.Sheets[0].Tables[0].Range.String())

	last := workbook(t, `<worksheet><sheetData><row r="1048576"><c r="XFD1048576"><v>1</v></c></row></sheetData></worksheet>`, "")
	grids, err = xlsx.Read(bytes.NewReader(last), int64(len(last)))
	require.NoError(t, err)
	assert.Equal(t, "1", grids[0].At(1<<20-1, 1<<14-1).Value.String())

	var rows strings.Builder
	for i := 1; i <= 2000; i++ {
		fmt.Fprintf(&rows, `<row r="%d"><c r="XFD%d"><v>1</v></c></row>`, i, i)
	}
	wide := workbook(t, "<worksheet><sheetData>"+rows.String()+"</sheetData></worksheet>", "")
	_, err = xlsx.Read(bytes.NewReader(wide), int64(len(wide)))
	require.ErrorIs(t, err, xlsx.ErrTooLarge)
}

func TestWhatXMLHoldsIsRead(t *testing.T) {
	raw := workbook(t, "<x:worksheet xmlns:x='m'><x:sheetData><x:row><!-- a remark <c> --><x:c t='inlineStr'><x:is><x:t>a &lt;b&gt; &#x2014; _x000D_&amp;</x:t></x:is></x:c>"+
		"<x:c t='inlineStr'><x:is><x:t><![CDATA[<raw & cooked>]]></x:t></x:is></x:c><x:c t='inlineStr'><x:is><x:r><x:t>one </x:t></x:r><x:rPh><x:t>spoken</x:t></x:rPh><x:r><x:t>two</x:t></x:r></x:is></x:c>"+
		"<x:c t='str'><x:f>HYPERLINK(\"https://example.org/a\",\"a\")</x:f><x:v>a</x:v></x:c></x:row></x:sheetData></x:worksheet>", "")
	grids, err := xlsx.Read(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	g := grids[0]
	assert.Equal(t, "a <b> — \r&", g.At(0, 0).Value.Raw())
	assert.Equal(t, "<raw & cooked>", g.At(0, 1).Value.Raw())
	assert.Equal(t, "one two", g.At(0, 2).Value.Raw())
	require.NotNil(t, g.At(0, 3).More)
	assert.Equal(t, "https://example.org/a", g.At(0, 3).More.Link)
	assert.False(t, g.At(0, 3).Formula, "a formula of nothing but a link is what somebody put there")
}
