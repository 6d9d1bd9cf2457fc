<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Change;

use Fulcrion\Core\Access\Policy\Item;

/**
 * One thing to be added to a policy.
 */
final readonly class Addition
{
    /**
     * @param  Item  $item as it would be
     */
    public function __construct(public string $title, public Item $item)
    {
    }
}
