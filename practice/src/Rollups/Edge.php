<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;

/**
 * An end of a range of moments that lies within a unit a rollup is grouped by. The whole units of the range come from
 * the rollup, and the rows between the end and the next whole unit from the table.
 */
final readonly class Edge
{
    /**
     * @param  bool  $from whether the range begins here, and does not end
     * @param  Expr  $whole the condition on the rows of the table
     * @param  int  $end where the range begins, or the first moment after it; in units of the type
     * @param  int  $next where the whole units begin, or the first moment after them; in units of the type
     * @param  Ref  $group column of the rollup
     * @param  int  $groupNext the same as next, in units of the type of the group
     */
    public function __construct(
        public bool $from,
        private Expr $moment,
        public Expr $whole,
        public int $end,
        public int $next,
        public string $unit,
        private Ref $group,
        private int $groupNext,
    ) {
    }

    /** On the columns of the rollup: the units that are whole. */
    public function inner(): Expr
    {
        return self::compare($this->from ? 'ge' : 'lt', $this->group, $this->groupNext);
    }

    /**
     * On the rows of the table: what the whole units leave out.
     *
     * @return list<Expr>
     */
    public function rest(): array
    {
        return [$this->whole, self::compare($this->from ? 'lt' : 'ge', $this->moment, $this->next)];
    }

    /** Whether the other end can be taken together with this one: one range of one column that has a whole unit inside. */
    public function goesWith(self $other): bool
    {
        return $this->from !== $other->from &&
            $this->moment->key() === $other->moment->key() &&
            ($this->from ? $this->next <= $other->next : $other->next <= $this->next);
    }

    public function text(): string
    {
        return "{$this->moment->text()} that fill no whole {$this->unit}";
    }

    private static function compare(string $name, Expr $left, int $value): Op
    {
        return new Op($name, [$left, new Constant($value, $left->type)], ColumnType::of(TypeKind::Boolean), $left->nullable);
    }
}
