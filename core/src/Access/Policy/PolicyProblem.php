<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * What is wrong with a policy, and where.
 */
final readonly class PolicyProblem
{
    public function __construct(
        public Kind $kind,
        public string $name,
        public string $field,
        public string $message,
        /** Whether it must be fixed before the policy can take effect. */
        public bool $grave = true,
    ) {
    }

    public function __toString(): string
    {
        return ucfirst($this->kind->one()).
            " \"{$this->name}\"".
            ($this->field === '' ? '' : ", field {$this->field},").
            ' '.
            $this->message.
            '.';
    }
}
