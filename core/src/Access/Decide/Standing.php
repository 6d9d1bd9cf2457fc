<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * What has gathered for a reader on the way from the estate down to an object.
 */
final readonly class Standing
{
    /** Whether any rule asks for labels of the table beside those of the column. */
    public bool $asksTable;

    /** Whether any rule filters rows. */
    public bool $filters;

    /**
     * @param  int  $allowed bits of privileges
     * @param  int  $denied bits of privileges
     * @param  list<Rule>  $rules
     * @param  string  $key the same for objects with the same grants and rules above them
     */
    public function __construct(public int $allowed, public int $denied, public array $rules, public string $key)
    {
        $asks = $filters = false;
        foreach ($rules as $rule) {
            $asks = $asks || $rule->asksTable;
            $filters = $filters || ! $rule->byColumn;
        }
        $this->asksTable = $asks;
        $this->filters = $filters;
    }
}
