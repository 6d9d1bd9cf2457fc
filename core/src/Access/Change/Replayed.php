<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

/**
 * What would become of a statement under another policy.
 */
final readonly class Replayed
{
    public function __construct(public AskedQuery $asked, public string $before, public string $after, public string $sentence)
    {
    }

    /** Whether less is given than before. */
    public function isWorse(): bool
    {
        $order = [
            'allowed' => 0,
            'trimmed' => 1,
            'masked' => 2,
            'masked and trimmed' => 3,
            'depends on values' => 4,
            'refused' => 5,
            'unreadable' => 6,
        ];

        return $order[$this->after] >= $order[$this->before];
    }
}
