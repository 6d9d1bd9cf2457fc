<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Provisioning;

/**
 * A role of a MariaDB that holds exactly what people who stand alike may see.
 */
final readonly class ProvisionedRole
{
    /**
     * @param  list<string>  $people who get it
     * @param  array<string, string>  $grants "PRIVILEGES ON `schema`.`object`" twice: key and value, so that sets can be compared
     * @param  array<string, string>  $views `schema`.`view` => text behind AS
     */
    public function __construct(public string $name, public array $people, public array $grants, public array $views)
    {
    }
}
