// Writes a workbook by exceljs, for a test that reads it: node exceljs.mjs FILE, from the folder that has exceljs installed.
import { createRequire } from 'node:module';

const ExcelJS = createRequire(`${process.cwd()}/package.json`)('exceljs');
const book = new ExcelJS.Workbook();
book.properties.date1904 = process.argv[3] === '1904';
book.addWorksheet('old', { state: 'hidden' }).addRow(['hidden']);
const sheet = book.addWorksheet('Prices & more');
sheet.addRow(['Price list']);
sheet.mergeCells('A1:C1');
sheet.addRow([]);
sheet.addRow(['SKU', 'EAN', 'from', 'price', 'note']);
const row = sheet.addRow(['0012', 9520123456788, new Date(Date.UTC(2026, 2, 9)), 12.5, { richText: [{ text: 'two ' }, { font: { bold: true }, text: 'kinds' }] }]);
row.getCell(2).numFmt = '0.00E+00';
row.getCell(3).numFmt = 'yyyy-mm-dd';
row.getCell(4).numFmt = '0.00';
sheet.addRow(['K-2', 9520123456795, null, { formula: 'D4*2', result: 25 }, true]);
sheet.addRow(['K-3', { error: '#REF!' }, null, { formula: 'D4*3' }, 'a\nb <&> x']);
sheet.getCell('A7').value = 7;
sheet.getCell('A7').numFmt = '0000';
sheet.getRow(8).hidden = true;
sheet.getCell('A8').value = 'hidden row';
const png = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
sheet.addImage(book.addImage({ base64: png, extension: 'png' }), { tl: { col: 4, row: 4 }, ext: { width: 20, height: 20 } });
await book.xlsx.writeFile(process.argv[2]);
