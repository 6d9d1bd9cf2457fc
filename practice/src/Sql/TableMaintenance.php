<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Closure;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Encoding;
use Fulcrion\Core\Parquet\Packing;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\Clustering;
use Fulcrion\Core\Storage\Compaction;
use Fulcrion\Core\Storage\Reordering;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\Run;
use Fulcrion\Practice\Rollups\Moves;
use Fulcrion\Practice\Storage\ChunkRewriter;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * MAINTAIN TABLE: compact, order and pack chunks, expire versions, sweep orphaned files, go back to a version, and register
 * statements whose filters are said differently.
 */
final readonly class TableMaintenance
{
    private const ACTIONS = ['compact', 'sort', 'expire', 'sweep', 'revert', 'rewrite', 'release', 'encode'];

    public function __construct(private Warehouse $warehouse, private Session $session, private Limits $limits)
    {
    }

    /**
     * @return array{int, string} chunks, versions or files concerned, what happened in words
     */
    public function run(Ast\Maintain $s, TableStore $store): array
    {
        $options = [];
        foreach ($s->options as $option) {
            $value = $option->values[0];
            $options[$option->name] = match (true) {
                $value instanceof Ast\ColumnName => strtolower($value->parts[0]),
                $value instanceof Ast\NumberLiteral => (int) $value->text,
                $value instanceof Ast\TextLiteral => $value->value,
                default => throw new WarehouseError("The option {$option->name} takes a word, a number or a text.", $option->at),
            };
        }
        $number = static fn (string $name, int $default): int => is_int($options[$name] ?? $default)
            ? ($options[$name] ?? $default)
            : throw new WarehouseError("The option {$name} takes a number.", $s->at);
        $name = "{$store->schema}.{$store->name}";

        if (isset($options['act'])) {
            throw new WarehouseError('The option act is called action now.', $s->at);
        }

        return match ($options['action'] ?? '') {
            'compact' => $this->rewrite(
                $store,
                static fn (TableLayout $layout): array => Compaction::of($layout)->bins,
                'compacted',
                $options,
            ),
            'sort' => $this->rewrite(
                $store,
                static fn (TableLayout $layout): array => Reordering::of($layout)->groups,
                'put in order',
                $options,
            ),
            'encode' => $this->encode($store, $options, $number('older_than_days', 0), $s->at),
            'expire' => [
                ($gone = $store->expire($this->session->nowUs - $number('days', 7) * 86_400_000_000, max(1, $number('keep', 1)))),
                "{$gone} files of old versions of {$name} are gone; ".count($store->versions()).' versions are kept.',
            ],
            'sweep' => $this->sweep($store),
            'revert' => $this->revert($store, $number('version', 0)),
            'rewrite' => $this->register($store, (string) ($options['statement'] ?? ''), true, $s->at),
            'release' => $this->register($store, (string) ($options['statement'] ?? ''), false, $s->at),
            default => throw new WarehouseError('The option action takes one of '.implode(', ', self::ACTIONS).'.', $s->at),
        };
    }

    /**
     * @param  Closure(TableLayout): list<list<int>>  $groups of chunks to be written together
     * @param  array<string, int|string>  $options
     * @return array{int, string}
     */
    private function rewrite(TableStore $store, Closure $groups, string $done, array $options): array
    {
        return $store->exclusively(function (Manifest $base) use ($store, $groups, $done, $options): array {
            $layout = LayoutReader::of($this->warehouse, $store, $this->session->nowUs);
            $chosen = $groups($layout);
            $chunks = array_sum(array_map(count(...), $chosen));
            $bytes = array_sum(
                array_map(
                    static fn (array $group): int => array_sum(array_map(static fn (int $i): int => $base->chunks[$i]->bytes, $group)),
                    $chosen,
                ),
            );
            $name = "{$store->schema}.{$store->name}";
            if ($chosen === []) {
                return [0, "Nothing of {$name} needs to be {$done}."];
            }
            if (($options['dry'] ?? '') === 'run') {
                return [$chunks, "{$chunks} chunks of {$name} with ".Quantity::bytes($bytes)." would be {$done}; nothing was written."];
            }
            $run = new Run($this->warehouse->nodes, $this->warehouse->profile, new ChunkCache(1), $this->limits, []);
            $run->read($bytes);
            $run->meter();
            [, $made, $bytesMade, $moves] = (new ChunkRewriter($store, $run->tick(...)))->rewrite($base, $chosen, $this->session->nowUs);
            Moves::follow($this->warehouse, basename($store->directory), $moves);

            return [
                $chunks,
                "{$chunks} chunks of {$name} with ".
                Quantity::bytes($bytes).
                " {$done}: {$made} chunks with ".
                Quantity::bytes($bytesMade).
                '.',
            ];
        });
    }

    /**
     * Writes chunks another way: in another order, with other encodings, compressed more or less.
     *
     * @param  array<string, int|string>  $options
     * @param  int  $days only chunks whose newest row is older; 0 for all, and for what is written from then on
     * @return array{int, string}
     */
    private function encode(TableStore $store, array $options, int $days, int $at): array
    {
        return $store->exclusively(function (Manifest $base) use ($store, $options, $days, $at): array {
            $definition = $base->definition;
            $name = "{$store->schema}.{$store->name}";
            $compression = (string) ($options['compression'] ?? $definition->packing->compression);
            if (! isset(Packing::COMPRESSIONS[$compression])) {
                throw new WarehouseError(
                    'The option compression takes one of '.implode(', ', array_keys(Packing::COMPRESSIONS)).'.',
                    $at,
                );
            }
            $encodings = self::encodings(self::pairs((string) ($options['encodings'] ?? '')), $definition, $at);
            $order = Parts::between((string) ($options['sorted_by'] ?? ''));
            foreach ($order as $column) {
                if ($definition->column($column) === null) {
                    throw new WarehouseError("{$name} has no column {$column} to be sorted by.", $at);
                }
            }
            $as = $definition->packed(new Packing($encodings, $compression));
            $as = $order === [] ? $as : $as->laidOut(clustering: new Clustering($order));
            $groups = [];
            foreach ($base->chunks as $i => $chunk) {
                if ($days === 0 || self::newest($chunk, $definition) < $this->session->nowUs - $days * 86_400_000_000) {
                    $groups["{$chunk->node}|{$chunk->partition}"][] = $i;
                }
            }
            if ($groups === []) {
                return [0, "No chunk of {$name} is older than {$days} days."];
            }
            $run = new Run($this->warehouse->nodes, $this->warehouse->profile, new ChunkCache(1), $this->limits, []);
            $before = array_sum(array_map(static fn (int $i): int => $base->chunks[$i]->bytes, array_merge(...array_values($groups))));
            $run->read($before);
            $run->meter();
            [, $made, $bytes, $moves] = (new ChunkRewriter($store, $run->tick(...)))->rewrite(
                $base,
                array_values($groups),
                $this->session->nowUs,
                $as,
                $days === 0,
            );
            Moves::follow($this->warehouse, basename($store->directory), $moves);

            return [
                $made,
                "{$made} chunks of {$name} rewritten: ".Quantity::bytes($bytes).' instead of '.Quantity::bytes($before).'.',
            ];
        });
    }

    /**
     * @param  array<string, string>  $words encoding by column
     * @return array<string, Encoding>
     */
    public static function encodings(array $words, TableDefinition $definition, int $at): array
    {
        $encodings = [];
        foreach ($words as $name => $word) {
            $name = (string) $name;
            $column = $definition->column($name) ?? throw new WarehouseError("There is no column {$name} to be encoded.", $at);
            $encoding =
                Encoding::named($word) ??
                throw new WarehouseError(
                    "There is no encoding {$word}; there are ".
                        implode(', ', array_map(static fn (Encoding $e): string => $e->word(), Encoding::cases())).
                        '.',
                    $at,
                );
            if (! $encoding->fits($column->type->kind)) {
                throw new WarehouseError("The encoding {$word} is not for values of type {$column->type}, as {$name} has.", $at);
            }
            $encodings[$column->name] = $encoding;
        }

        return $encodings;
    }

    /**
     * @param  string  $words "read_at:delta, kind:dictionary"
     * @return array<string, string> encoding by column
     */
    private static function pairs(string $words): array
    {
        $pairs = [];
        foreach (Parts::between($words) as $pair) {
            [$name, $word] = array_map(trim(...), explode(':', $pair, 2) + [1 => '']);
            $pairs[$name] = $word;
        }

        return $pairs;
    }

    /** The latest moment in a chunk, by its bounds; never where the table has no moments. */
    private static function newest(Chunk $chunk, TableDefinition $definition): int
    {
        $newest = PHP_INT_MAX;
        foreach ($definition->columns as $i => $column) {
            $most = $chunk->zones[$i]->max;
            if (is_int($most) && $column->type->is(TypeKind::Timestamp, TypeKind::Date)) {
                $newest = min($newest, $column->type->is(TypeKind::Date) ? ($most + 1) * 86_400_000_000 : $most);
            }
        }

        return $newest;
    }

    /**
     * @return array{int, string}
     */
    private function sweep(TableStore $store): array
    {
        $orphans = $store->exclusively(static function () use ($store): array {
            // Nobody writes while this holds the lock, so whatever belongs to nothing is left over.
            $orphans = $store->orphans(PHP_INT_MAX);
            array_map(unlink(...), array_keys($orphans));

            return $orphans;
        });

        return [count($orphans), count($orphans).' files of no version are gone, '.Quantity::bytes(array_sum($orphans)).'.'];
    }

    /**
     * Undoes a rewriting of chunks: those it made give way to those it replaced, rows that came since stay.
     *
     * @return array{int, string}
     */
    private function revert(TableStore $store, int $version): array
    {
        return $store->exclusively(function (Manifest $current) use ($store, $version): array {
            if ($version < 1 || $version >= $current->version) {
                throw new WarehouseError("Version {$version} is not older than the current one, {$current->version}.");
            }
            $old = $store->version($version);
            $next = $store->version($version + 1);
            if (
                array_map(static fn (Column $c): string => $c->name, $old->definition->columns) !==
                array_map(static fn (Column $c): string => $c->name, $current->definition->columns)
            ) {
                throw new WarehouseError('The columns of the table are others now.');
            }
            $files = static fn (Manifest $m): array => array_combine(
                array_map(static fn (Chunk $c): string => $c->file, $m->chunks),
                $m->chunks,
            );
            [$before, $after, $now] = [$files($old), $files($next), $files($current)];
            if (array_diff_key($after, $now) !== []) {
                throw new WarehouseError(
                    'chunks that change made were rewritten since, so it cannot be taken back without them; nothing was changed.',
                );
            }
            $manifest = new Manifest(
                $current->version + 1,
                $this->session->nowUs,
                $old->definition,
                array_values([...$before, ...array_diff_key($now, $after)]),
                $current->rowsChanged,
            );
            if ($manifest->rows() !== $current->rows()) {
                throw new WarehouseError(
                    "Version {$version} has other rows than the one after it; only rewritings of chunks can be taken back.",
                );
            }
            $store->publish($manifest);
            // What the taken back version was computed from, rollups know by the names it had.
            Moves::follow($this->warehouse, basename($store->directory), [
                [array_keys(array_diff_key($after, $before)), array_keys(array_diff_key($before, $after))],
            ]);

            return [count($before), "{$store->schema}.{$store->name} lies again as in version {$version}."];
        });
    }

    /**
     * @return array{int, string}
     */
    private function register(TableStore $store, string $fingerprint, bool $on, int $at): array
    {
        if (preg_match('~^[0-9a-f]{32}$~', $fingerprint) !== 1) {
            throw new WarehouseError('The option statement takes the fingerprint of a statement, 32 hexadecimal digits.', $at);
        }
        $types = [];
        foreach ($store->manifest()->definition->columns as $column) {
            $types[$column->name] = $column->type->kind->value;
        }
        $this->warehouse->rewrite($fingerprint, $on ? $types : null);

        return [
            1,
            'Filters of statement '.
            substr($fingerprint, 0, 8).
            ($on
                ? " on {$store->schema}.{$store->name} are said as spans of its columns from now on."
                : ' are run as they are written again.'),
        ];
    }
}
