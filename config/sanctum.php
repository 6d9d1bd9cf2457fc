<?php

declare(strict_types=1);

return [
    // Tokens only: a browser session does not open the interface for machines.
    'guard' => [],
    'expiration' => null,
    'routes' => false,
];
