<?php

declare(strict_types=1);

namespace App\Platform\Support;

use OpenSpout\Common\Entity\Cell;
use OpenSpout\Common\Entity\Row;
use OpenSpout\Writer\Common\Creator\Style\StyleBuilder;
use OpenSpout\Writer\Common\Creator\WriterEntityFactory;
use RuntimeException;

/**
 * Rows as a file that spreadsheet programs open: numbers are numbers, and no text is ever a formula.
 */
final class Spreadsheet
{
    /** The longest text a cell may hold, by the format. */
    public const LONGEST = 32_767;

    /** Whole numbers up to here are exact where every number is a double. */
    private const EXACT = 2 ** 53;

    /**
     * @param  iterable<array<bool|int|float|string|null>>  $rows their names first
     * @return string the file
     */
    public static function xlsx(iterable $rows): string
    {
        $path = tempnam(sys_get_temp_dir(), 'xlsx');
        if ($path === false) {
            throw new RuntimeException('The server has no room for the file.');
        }
        try {
            $writer = WriterEntityFactory::createXLSXWriter();
            $writer->openToFile($path);
            $style = (new StyleBuilder())->setFontBold()->build();
            foreach ($rows as $row) {
                $writer->addRow(new Row(array_map(self::cell(...), array_values($row)), $style));
                $style = null;
            }
            $writer->close();

            return (string) file_get_contents($path);
        } finally {
            @unlink($path);
        }
    }

    /**
     * @param  iterable<array<bool|int|float|string|null>>  $rows their names first
     */
    public static function csv(string $path, iterable $rows): void
    {
        $writer = WriterEntityFactory::createCSVWriter();
        $writer->setShouldAddBOM(false);
        $writer->openToFile($path);
        foreach ($rows as $row) {
            $cells = array_map(Export::cell(...), array_values($row));
            $writer->addRow(new Row(array_map(static fn (string $cell): Cell => new Cell($cell), $cells), null));
        }
        $writer->close();
    }

    private static function cell(bool|int|float|string|null $value): Cell
    {
        $isNumber = is_int($value) ? abs($value) <= self::EXACT : is_float($value) && is_finite($value);
        if ($value === null || is_bool($value) || $isNumber) {
            return new Cell($value);
        }
        $text = mb_scrub((string) $value);
        $cell = new Cell(mb_strlen($text) > self::LONGEST ? mb_substr($text, 0, self::LONGEST - 1).'…' : $text);
        if ($text !== '') {
            // What begins like a formula is the text it is.
            $cell->setType(Cell::TYPE_STRING);
        }

        return $cell;
    }
}
