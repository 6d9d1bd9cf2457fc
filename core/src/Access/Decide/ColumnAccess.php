<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\Item;

/**
 * What somebody sees of a column, and why not more.
 */
final readonly class ColumnAccess
{
    /**
     * @param  list<Cause>  $causes
     */
    public function __construct(public Sight $sight, public ?Item $mask = null, public array $causes = [])
    {
    }

    /** The stricter of both, with the causes of both. */
    public function and(self $other): self
    {
        if ($other->sight === Sight::Visible) {
            return $this;
        }
        if ($this->sight === Sight::Visible) {
            return $other;
        }
        $causes = array_values(array_unique([...$this->causes, ...$other->causes], SORT_STRING));
        if ($this->sight === Sight::Masked && $other->sight === Sight::Masked && $this->mask !== null && $other->mask !== null) {
            return new self(Sight::Masked, Masking::stricter($this->mask, $other->mask), $causes);
        }
        [$strict, $loose] = $this->sight->rank() >= $other->sight->rank() ? [$this, $other] : [$other, $this];

        return new self($strict->sight, $strict->mask, $strict->sight === $loose->sight ? $causes : $strict->causes);
    }

    public function words(): string
    {
        return $this->mask === null ? $this->sight->value : 'masked: '.Masking::words($this->mask);
    }

    /** The same for accesses that show the same. */
    public function key(): string
    {
        return $this->sight->value.($this->mask === null ? '' : ":{$this->mask->name}");
    }
}
