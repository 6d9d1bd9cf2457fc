<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

/**
 * The made-up platform team that signs in to the demo.
 */
final class Team
{
    public const PASSWORD = 'glasshouse-46';

    /** @var array<string, array{string, string}> address => name, role */
    public const PEOPLE = [
        'marta@brackenfold.example' => ['Marta Ellwood', 'owner'],
        'idris@brackenfold.example' => ['Idris Pell', 'engineer'],
        'saskia@brackenfold.example' => ['Saskia Thorne', 'steward'],
        'joon@brackenfold.example' => ['Joon Aldery', 'viewer'],
    ];
}
