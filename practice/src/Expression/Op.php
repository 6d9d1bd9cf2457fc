<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Practice\WarehouseError;

/**
 * An operator or function; what each name does stands in Compiler.
 */
final readonly class Op extends Expr
{
    private const DEEPEST = 500;

    private const INFIX = [
        'add' => '+',
        'sub' => '-',
        'mul' => '*',
        'div' => '/',
        'mod' => '%',
        'eq' => '=',
        'ne' => '<>',
        'lt' => '<',
        'le' => '<=',
        'gt' => '>',
        'ge' => '>=',
        'and' => 'AND',
        'or' => 'OR',
        'concat' => '||',
    ];

    private int $depth;

    /**
     * @param  list<Expr>  $args
     */
    public function __construct(
        public string $name,
        public array $args,
        ColumnType $type,
        bool $nullable,
        public int|string|null $extra = null,
    ) {
        $this->depth =
            1 + array_reduce($args, static fn (int $most, Expr $arg): int => $arg instanceof self ? max($most, $arg->depth) : $most, 0);
        if ($this->depth > self::DEEPEST) {
            throw new WarehouseError(
                'An expression is nested more than '.self::DEEPEST.' levels deep; a chain of operators counts one level for each.',
            );
        }
        parent::__construct($type, $nullable);
    }

    public function key(): string
    {
        return "{$this->name}[{$this->extra}:{$this->type}](".
            implode(',', array_map(static fn (Expr $arg): string => $arg->key(), $this->args)).
            ')';
    }

    public function text(): string
    {
        // Each part says its text once: asked twice on every level, a long chain would take for ever.
        $plain = array_map(static fn (Expr $arg): string => $arg->text(), $this->args);
        $texts = array_map(
            static fn (Expr $arg, string $text): string => $arg instanceof self && isset(self::INFIX[$arg->name]) && $arg->name !== 'concat'
                ? "({$text})"
                : $text,
            $this->args,
            $plain,
        );

        return match (true) {
            $this->name === 'and' => implode(
                ' AND ',
                array_map(
                    static fn (Expr $arg, string $text): string => $arg instanceof self && $arg->name === 'or' ? "({$text})" : $text,
                    $this->args,
                    $plain,
                ),
            ),
            isset(self::INFIX[$this->name]) => implode(' '.self::INFIX[$this->name].' ', $texts),
            $this->name === 'not' => "NOT ({$plain[0]})",
            $this->name === 'neg' => "-{$texts[0]}",
            $this->name === 'isnull' => "{$texts[0]} IS NULL",
            $this->name === 'in' => "{$texts[0]} IN (".implode(', ', array_slice($plain, 1)).')',
            $this->name === 'like' => "{$texts[0]} LIKE {$texts[1]}",
            $this->name === 'same' => "{$texts[0]} IS NOT DISTINCT FROM {$texts[1]}",
            $this->name === 'cast' => "CAST({$plain[0]} AS {$this->type})",
            $this->name === 'date_trunc' => "date_trunc('{$this->extra}', {$plain[0]})",
            $this->name === 'extract' => strtoupper("extract({$this->extra}")." FROM {$plain[0]})",
            $this->name === 'plus_interval' => "{$texts[0]} + INTERVAL {$plain[1]} {$this->extra}",
            $this->name === 'lookup' => strtok((string) $this->extra, '#').
                "[{$plain[0]}].".
                substr((string) strrchr((string) $this->extra, '.'), 1),
            $this->name === 'known' => "{$texts[0]} IN (keys of ".strtok((string) $this->extra, '#').')',
            $this->name === 'case' => $this->caseText($plain),
            default => "{$this->name}(".implode(', ', $plain).')',
        };
    }

    public function parts(): array
    {
        return $this->args;
    }

    public function replace(callable $replacement): Expr
    {
        $new = $replacement($this);
        if ($new !== null) {
            return $new;
        }
        $args = array_map(static fn (Expr $arg): Expr => $arg->replace($replacement), $this->args);

        return $args === $this->args ? $this : new self($this->name, $args, $this->type, $this->nullable, $this->extra);
    }

    public function conjuncts(): array
    {
        return $this->name === 'and' ? array_merge(...array_map(static fn (Expr $arg): array => $arg->conjuncts(), $this->args)) : [$this];
    }

    /**
     * @param  list<string>  $texts
     */
    private function caseText(array $texts): string
    {
        $text = 'CASE';
        for ($i = 0; $i + 1 < count($texts); $i += 2) {
            $text .= " WHEN {$texts[$i]} THEN {$texts[$i + 1]}";
        }

        return $text.(count($texts) % 2 === 1 ? ' ELSE '.$texts[count($texts) - 1] : '').' END';
    }
}
