"""Files of temperature loggers, as general devices, spreadsheets and scripts write them.

Each file is read right, or read after a question was answered, or refused with what is missing.
"""

from thermion.formats.asking import Answers, Question
from thermion.formats.logger.reader import Channel, LoggerFile, Skipped, read_logger, settled
from thermion.formats.logger.sheet import UnreadableFile
from thermion.formats.logger.values import Lost

__all__ = [
    "Answers",
    "Channel",
    "LoggerFile",
    "Lost",
    "Question",
    "Skipped",
    "UnreadableFile",
    "read_logger",
    "settled",
]
