<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

final readonly class Fingerprint
{
    public function __construct(
        /** 32 hexadecimal digits. */
        public string $id,
        /** Normalised text. */
        public string $text,
    ) {
    }
}
