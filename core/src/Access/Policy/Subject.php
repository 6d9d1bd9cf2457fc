<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * Whom something is for: "everyone", "role:agronomy" or "person:mara.holt".
 */
final readonly class Subject
{
    public const EVERYONE = 'everyone';

    public static function person(string $name): string
    {
        return "person:{$name}";
    }

    /** An account of the application that is bound to nobody in the policy: it holds what everyone has. */
    public static function account(string $address): string
    {
        return "account:{$address}";
    }

    public static function role(string $name): string
    {
        return "role:{$name}";
    }

    /**
     * @return array{string, string} kind, name
     */
    public static function split(string $subject): array
    {
        $at = strpos($subject, ':');

        return $at === false ? [$subject, ''] : [substr($subject, 0, $at), substr($subject, $at + 1)];
    }

    public static function isWritten(string $subject): bool
    {
        return $subject === self::EVERYONE || preg_match('~^(?:role|person):\S~u', $subject) === 1;
    }

    public static function show(string $subject): string
    {
        [$kind, $name] = self::split($subject);

        return $kind === self::EVERYONE ? 'everyone' : ($kind === 'role' ? "role {$name}" : $name);
    }
}
