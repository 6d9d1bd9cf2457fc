<?php

declare(strict_types=1);

namespace App\Encodings\Application;

use App\Estate\Connectors\SourceError;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\LiteralValue;

/**
 * Rows of a CSV or Parquet file somebody brought.
 */
final readonly class FileTable
{
    private const MOST_ROWS = 400_000;

    /** Rows that count as one place, so that the sample has several. */
    private const PLACE = 20_000;

    /**
     * @param  list<Column>  $columns
     */
    private function __construct(public array $columns, private Place $rows)
    {
    }

    /**
     * @throws SourceError
     */
    public static function read(string $path): self
    {
        return file_get_contents($path, false, null, 0, 4) === 'PAR1' ? self::parquet($path) : self::csv($path);
    }

    public function rows(): int
    {
        return $this->rows->rows();
    }

    /**
     * @return non-empty-list<Place>
     */
    public function places(): array
    {
        $places = [$this->rows->part(0, self::PLACE)];
        for ($at = self::PLACE; $at < $this->rows->rows(); $at += self::PLACE) {
            $places[] = $this->rows->part($at, self::PLACE);
        }
        if (count($places) > 1 && $places[count($places) - 1]->rows() < self::PLACE / 2) {
            array_pop($places);
        }

        return $places;
    }

    private static function parquet(string $path): self
    {
        try {
            $reader = ParquetReader::open(new StringSource((string) file_get_contents($path)));
            $columns = [];
            foreach ($reader->columns as $column) {
                $columns[$column->name] = array_slice($reader->readAll($column->name), 0, self::MOST_ROWS);
            }
        } catch (ParquetError $error) {
            throw new SourceError($error->getMessage());
        }
        if ($columns === [] || count(reset($columns)) === 0) {
            throw new SourceError('The file has no rows to be stored.');
        }

        return new self(array_values($reader->columns), new Place($columns));
    }

    private static function csv(string $path): self
    {
        $file = fopen($path, 'rb');
        if ($file === false) {
            throw new SourceError('The file cannot be opened.');
        }
        $first = (string) fgets($file);
        rewind($file);
        $delimiter = substr_count($first, ';') > substr_count($first, ',') ? ';' : (str_contains($first, "\t") ? "\t" : ',');
        $head = fgetcsv($file, null, $delimiter, '"', '');
        $names = array_map(
            static fn (?string $name): string => trim((string) $name, " \xEF\xBB\xBF"),
            $head === false ? [] : $head,
        );
        if (
            $names === [] ||
            array_filter($names, static fn (string $name): bool => $name === '') !== [] ||
            count(array_unique($names)) < count($names)
        ) {
            throw new SourceError('Line 1 has to name each column, and no two alike. Add a line of names.');
        }
        $texts = array_fill_keys($names, []);
        $line = 1;
        while (($record = fgetcsv($file, null, $delimiter, '"', '')) !== false && $line <= self::MOST_ROWS) {
            $line++;
            if ($record === [null]) {
                continue;
            }
            if (count($record) !== count($names)) {
                throw new SourceError(
                    "Line {$line} has ".
                        count($record).
                        ' fields, line 1 names '.
                        count($names).
                        '. Fix the line, or choose another file.',
                );
            }
            foreach ($names as $i => $name) {
                $texts[$name][] = (string) $record[$i];
            }
        }
        fclose($file);
        if (reset($texts) === []) {
            throw new SourceError('The file has no rows to be stored.');
        }
        $columns = $values = [];
        foreach ($texts as $name => $list) {
            $type = self::typeOf($list);
            $columns[] = new Column((string) $name, $type);
            $values[$name] = array_map(static fn (string $text): int|float|string|bool|null => self::value($text, $type), $list);
        }

        return new self($columns, new Place($values));
    }

    /**
     * The narrowest type all values fit.
     *
     * @param  list<string>  $texts
     */
    private static function typeOf(array $texts): ColumnType
    {
        $texts = array_filter($texts, static fn (string $text): bool => $text !== '');
        $all = static fn (string $pattern): bool => $texts !== [] &&
            array_filter($texts, static fn (string $text): bool => preg_match($pattern, $text) !== 1) === [];

        return ColumnType::of(
            match (true) {
                $all('~^-?\d{1,18}$~') => TypeKind::Bigint,
                $all('~^-?\d+(\.\d+)?([eE][-+]?\d+)?$~') => TypeKind::Double,
                $all('~^(true|false)$~i') => TypeKind::Boolean,
                $all('~^\d{4}-\d{2}-\d{2}$~') => TypeKind::Date,
                $all('~^\d{4}-\d{2}-\d{2}[ T]\d{2}:\d{2}(:\d{2}(\.\d{1,6})?)?$~') => TypeKind::Timestamp,
                default => TypeKind::Text,
            },
        );
    }

    private static function value(string $text, ColumnType $type): int|float|string|bool|null
    {
        return match (true) {
            $text === '' && ! $type->is(TypeKind::Text) => null,
            $type->is(TypeKind::Bigint) => (int) $text,
            $type->is(TypeKind::Double) => (float) $text,
            $type->is(TypeKind::Boolean) => strtolower($text) === 'true',
            $type->is(TypeKind::Text) => $text,
            default => LiteralValue::of(new TextLiteral(0, $text), $type),
        };
    }
}
