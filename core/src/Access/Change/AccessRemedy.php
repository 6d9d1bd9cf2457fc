<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

/**
 * A set of additions that allows a statement, none of which can be left out, and what else it opens.
 */
final readonly class AccessRemedy
{
    /**
     * @param  list<Addition>  $additions
     * @param  list<Shift>  $opens for others, or of other things
     * @param  string  $left what stays masked or trimmed, in words
     */
    public function __construct(public string $title, public array $additions, public array $opens, public string $left)
    {
    }

    public function weight(): int
    {
        return array_sum(array_map(static fn (Shift $shift): int => count($shift->people) * count($shift->objects), $this->opens));
    }
}
