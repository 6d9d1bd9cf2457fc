<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Ast;

/**
 * GRANT and REVOKE.
 */
final readonly class Privileges extends Statement
{
    /**
     * @param  list<string>  $privileges in capitals
     * @param  list<string>  $object
     * @param  list<string>  $grantees
     */
    public function __construct(
        int $at,
        public bool $grants,
        public array $privileges,
        /** TABLE, SCHEMA, ROLE ...; null when not said. */
        public ?string $kind,
        public array $object,
        public array $grantees,
        public bool $withOption,
    ) {
        parent::__construct($at);
    }
}
