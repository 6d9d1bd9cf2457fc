<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * What has gathered for a reader on the way from the estate down to an object.
 */
final readonly class Standing
{
    /**
     * @param  int  $allowed bits of privileges
     * @param  int  $denied bits of privileges
     * @param  list<Rule>  $rules
     * @param  string  $key the same for objects with the same grants and rules above them
     */
    public function __construct(public int $allowed, public int $denied, public array $rules, public string $key)
    {
    }
}
