<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * DROP TABLE, VIEW or SCHEMA.
 */
final readonly class Drop extends Statement
{
    /**
     * @param  list<string>  $name
     */
    public function __construct(
        int $at,
        /** In capitals. */
        public string $kind,
        public array $name,
        public bool $ifThere,
    ) {
        parent::__construct($at);
    }
}
