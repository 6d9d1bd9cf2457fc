<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Review;

use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;

/**
 * Something in a policy that should not be as it is, and how it could be fixed.
 */
final readonly class Remark
{
    /**
     * @param  string  $object what it is about, unique for its check
     * @param  array<string, string>  $evidence
     * @param  list<Item>  $put items as they would be
     * @param  list<array{Kind, string}>  $remove items that would go
     * @param  string  $at path of the data it is about; empty where it is about a person or the policy as a whole
     */
    public function __construct(
        public string $check,
        public string $object,
        public bool $act,
        public string $problem,
        public array $evidence = [],
        public array $put = [],
        public array $remove = [],
        public string $at = '',
    ) {
    }
}
