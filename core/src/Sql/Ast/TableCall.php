<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * A function behind FROM.
 */
final readonly class TableCall extends Relation
{
    public function __construct(int $at, public Call $call, public ?string $alias)
    {
        parent::__construct($at);
    }
}
