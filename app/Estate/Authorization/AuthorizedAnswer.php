<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Connectors\QueryResult;
use Fulcrion\Core\Plans\Plan;

/**
 * What a cluster gave to whoever asked, with no more than they may see.
 */
final readonly class AuthorizedAnswer
{
    /**
     * @param  list<string>  $notes what of it is left out or masked
     */
    public function __construct(public ?QueryResult $result, public ?Plan $plan, public array $notes)
    {
    }
}
