<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * ALTER TABLE ... RENAME TO ..., RENAME TABLE ... TO ....
 */
final readonly class Rename extends Statement
{
    /**
     * @param  non-empty-list<array{list<string>, string}>  $pairs table, its new name; all at once
     */
    public function __construct(int $at, public array $pairs)
    {
        parent::__construct($at);
    }
}
