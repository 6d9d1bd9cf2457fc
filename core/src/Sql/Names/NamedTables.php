<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Names;

use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;

/**
 * The tables a statement names, known to a catalog or not: those it reads, those it writes, and those it only looks after.
 */
final readonly class NamedTables
{
    /**
     * @param  list<string>  $reads schema.table in small letters, or the bare name where no schema is known
     * @param  list<string>  $writes
     * @param  list<string>  $others that are analysed, maintained, renamed or dropped
     */
    private function __construct(public array $reads, public array $writes, public array $others)
    {
    }

    /**
     * @param  string  $text of a statement, with its values or normalised
     * @param  string  $schema where tables without one are looked for
     */
    public static function of(string $text, Dialect $dialect = Dialect::Ansi, string $schema = ''): self
    {
        $text = self::readable($text);
        try {
            $statement = (new Parser($dialect))->statement($text);
        } catch (SyntaxError) {
            return new self(...TableMentions::of($text, $dialect, $schema));
        }
        $reads = [];
        self::walk($statement, $schema, [], $reads);
        $written = match (true) {
            $statement instanceof Ast\Insert,
            $statement instanceof Ast\Update,
            $statement instanceof Ast\Delete,
            $statement instanceof Ast\Copy => $statement->table,
            $statement instanceof Ast\CreateTable => $statement->name,
            default => null,
        };
        $writes = $written === null ? [] : [TableNames::path($written, $schema)];
        $all = array_map(static fn (array $parts): string => TableNames::path($parts, $schema), TableNames::of($statement));
        // What TableNames knows and nothing reads or writes; names of common tables are no tables, and a schema is none either.
        $others = $statement instanceof Ast\Query || $written !== null ? []
            : array_filter(array_diff($all, array_keys($reads)), static fn (string $path): bool => ! str_ends_with($path, '.'));

        return new self(array_keys($reads), $writes, array_values(array_unique($others)));
    }

    /**
     * @return list<string> each once
     */
    public function all(): array
    {
        return array_values(array_unique([...$this->reads, ...$this->writes, ...$this->others]));
    }

    /** Repetitions a normalised text leaves out, and endings of names it hides, as a parser takes them. */
    private static function readable(string $text): string
    {
        return (string) preg_replace(['~,\s*\.\.\.~', '~(?<=\w)\?~'], ['', 'N'], $text);
    }

    /**
     * @param  array<string, true>  $common names of common tables in force
     * @param  array<string, true>  $found by path
     */
    private static function walk(mixed $part, string $schema, array $common, array &$found): void
    {
        if ($part instanceof Ast\Query) {
            foreach ($part->with as $table) {
                // A common table may be named like the table it is made of, unless it reads itself.
                self::walk($table->query, $schema, $common + ($part->recursive ? [strtolower($table->name) => true] : []), $found);
                $common[strtolower($table->name)] = true;
            }
            self::walk([$part->body, $part->orderBy, $part->limit, $part->offset], $schema, $common, $found);

            return;
        }
        if ($part instanceof Ast\TableName && ! (count($part->parts) === 1 && isset($common[strtolower($part->parts[0])]))) {
            $found[TableNames::path($part->parts, $schema)] = true;
        }
        if (is_array($part) || $part instanceof Ast\Node) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                self::walk($inner, $schema, $common, $found);
            }
        }
    }
}
