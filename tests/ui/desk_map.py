"""Where things are on the Kiln Desk's pages, read from a second window beside the stage."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.ui.pages import until


class DeskMap:
    """Middles of the desk's controls in its own pixels, by id."""

    def __init__(self, lantern):
        self.lantern = lantern
        driver = lantern.driver
        home = driver.current_window_handle
        driver.switch_to.new_window("window")
        driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride",
            {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
        )
        desk = lantern.stack.desk_address
        driver.get(f"{desk}/sign-in")
        self.places = self._places("#member", "#password", "#enter")
        driver.find_element(By.ID, "member").send_keys("mara")
        driver.find_element(By.ID, "password").send_keys("wheel-and-kiln" + Keys.ENTER)
        until(lambda: driver.find_elements(By.ID, "piece"), "the quote form")
        self.places |= self._places("#piece", "#clay", "#cone", "#count", "#rush", "#ask")
        driver.find_element(By.ID, "piece").send_keys("Moon jar")
        driver.find_element(By.ID, "ask").click()
        until(lambda: driver.find_elements(By.ID, "price"), "a price")
        self.places |= self._places("#price", "#book")
        driver.get(f"{desk}/board")
        self.places |= self._places("[data-opens=menu-2]")
        driver.find_element(By.CSS_SELECTOR, "[data-opens=menu-2]").click()
        self.places |= self._places("#menu-2 a", "#menu-2 button")
        driver.close()
        driver.switch_to.window(home)

    def _places(self, *selectors):
        places = {}
        for one in selectors:
            box = self.lantern.driver.find_element(By.CSS_SELECTOR, one).rect
            middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            places[one.lstrip("#")] = middle
        return places

    def __getitem__(self, name):
        return self.places[name]
