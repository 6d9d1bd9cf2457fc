<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * What a field of an item holds.
 */
enum FieldType: string
{
    case Text = 'text';
    case LongText = 'long text';
    case Flag = 'flag';
    case Count = 'whole number';
    case Day = 'day';
    case Choice = 'choice';
    case Choices = 'choices';
    case Texts = 'list';
    case Map = 'map';
    case Subject = 'subject';
    case Subjects = 'subjects';
    case Path = 'object';
    case Paths = 'objects';
    case Condition = 'condition';
    case Predicate = 'predicate';
    case Reference = 'name of an item';
    case References = 'names of items';
    case Ranges = 'ranges';
}
